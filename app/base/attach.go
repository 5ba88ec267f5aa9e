package base

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strings"

	"tingate/core/drivefile"
	"tingate/store"
)

var Attachable = map[string]bool{"image/jpeg": true, "image/png": true, "image/webp": true, "image/gif": true, "application/pdf": true}

// Shown tells whether a kept file of a type is shown as it is; every other is a download, and never a page.
func Shown(typ string) bool { return Attachable[typ] }

func TypeOf(b []byte) string {
	typ, _, _ := strings.Cut(http.DetectContentType(b), ";")
	return typ
}

func HashOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// KeepAttachment stores bytes whose name is their hash.
func (a *Base) KeepAttachment(tx *store.Tx, sha string, b []byte) error {
	if HashOf(b) != sha {
		return Bad("attachment "+sha, "other bytes", "those with this SHA-256")
	}
	return tx.PutAttachment(sha, TypeOf(b), b)
}

// AddAttachment stores bytes and records whose they are.
func (a *Base) AddAttachment(ctx context.Context, who Actor, driveID, id, name, of, typ string, b []byte) error {
	sha := HashOf(b)
	return a.Put(ctx, who, driveID, id, drivefile.EntryAttachment, func(s Situation) (any, error) {
		if err := a.KeepAttachment(s.tx, sha, b); err != nil {
			return nil, err
		}
		return drivefile.Attachment{SHA256: sha, Name: name, Type: typ, Size: int64(len(b)), Of: of}, nil
	})
}

// Attachment finds kept bytes.
func (a *Base) Attachment(ctx context.Context, sha string) (typ string, b []byte, err error) {
	return a.Store.Read(ctx).Attachment(sha)
}
