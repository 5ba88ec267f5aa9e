package store

import (
	"context"
	"database/sql"
	"fmt"
)

// querier is a reader's or a writer's connection.
type querier interface {
	QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, q string, args ...any) *sql.Row
}

// prepared are the named statements as SQLite compiled them. They are compiled when a folder is opened: a transaction holds the only
// connection that writes, and none that does not compile is found out in the middle of the work.
type prepared map[string]*sql.Stmt

func prepare(db *sql.DB) (prepared, error) {
	all := prepared{}
	for name, q := range queries {
		st, err := db.Prepare(q)
		if err != nil {
			return nil, fmt.Errorf("statement %s: %w", name, err)
		}
		all[name] = st
	}
	return all, nil
}

// on is where named statements run: a database, or a transaction of it.
type on struct {
	q   querier
	tx  *sql.Tx
	all prepared
}

// statement is a named one, inside the transaction where there is one; nil where none are prepared.
func (o on) statement(ctx context.Context, name string) *sql.Stmt {
	st := o.all[name]
	if st != nil && o.tx != nil {
		st = o.tx.StmtContext(ctx, st)
	}
	return st
}

func (o on) rows(ctx context.Context, name string, args ...any) (*sql.Rows, error) {
	if st := o.statement(ctx, name); st != nil {
		return st.QueryContext(ctx, args...)
	}
	return o.q.QueryContext(ctx, queries[name], args...)
}

func (o on) row(ctx context.Context, name string, args ...any) *sql.Row {
	if st := o.statement(ctx, name); st != nil {
		return st.QueryRowContext(ctx, args...)
	}
	return o.q.QueryRowContext(ctx, queries[name], args...)
}
