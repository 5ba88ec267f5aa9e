// Package demo carries the demo plant as a bundle, imported like anyone's, and makes large places for measuring.
package demo

import (
	"context"
	_ "embed"
	"fmt"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/bench/stand"
	"tingate/formats/familyfile"
	"tingate/store"
)

//go:embed skerrow-kelp-works.tingate.zip
var plant []byte

// BenchTag is the drive that the stand-in plays.
const BenchTag = "DD-02"

// Fill imports the demo plant; with drives above 0 it makes a place with that many drives instead.
func Fill(ctx context.Context, a *app.App, drives int) error {
	if drives > 0 {
		return Generate(ctx, a, "Many drives", drives)
	}
	_, err := a.ImportBytes(ctx, base.Actor{Name: "the demo plant that ships with the program"}, plant)
	return err
}

// asFound is what the stand-in holds: a drive used before on another motor.
var asFound = map[string]string{"4D": "26.8", "4A": "5.50", "4E": "1440", "6K": "100", "7A": "10.0", "8A": "terminals", "6C": "5.0"}

// StandIn starts the stand-in drive of the demo plant. When its address is not the one in the drive file, the file is
// changed, as a person would. A busy port gives another.
func StandIn(ctx context.Context, a *app.App, listen string) (*stand.Drive, error) {
	d := stand.New(familyfile.Find("Tarn"))
	d.Rating, d.Firmware = 416, 3<<8|2 // TN4-016, firmware 3.2
	for code, text := range asFound {
		if err := d.Set(code, text); err != nil {
			return nil, err
		}
	}
	if err := d.Serve(listen); err != nil {
		if err2 := d.Serve("127.0.0.1:0"); err2 != nil {
			return nil, fmt.Errorf("stand-in drive: %w", err)
		}
	}
	places, err := a.Places(ctx)
	if err != nil {
		return nil, err
	}
	for _, p := range places {
		page, err := a.Yard(ctx, store.YardQuery{Place: p.ID, Text: BenchTag, Limit: 10})
		if err != nil {
			return nil, err
		}
		for _, row := range page.Rows {
			v, err := a.Drive(ctx, base.Actor{}, row.ID)
			if err != nil {
				return nil, err
			}
			if row.Tag != BenchTag || v.Drive.Link.Address == d.Address() {
				continue
			}
			for person := range p.Place.People {
				err = a.Change(ctx, base.Actor{Person: person}, row.ID,
					drives.Edit{ID: base.NewID(), Edit: "create", Why: "the stand-in drive answers there",
						Sets: []drives.Set{{Path: "link.address", Text: d.Address()}}})
				break
			}
			if err != nil {
				return nil, err
			}
		}
	}
	return d, nil
}
