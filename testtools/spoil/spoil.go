// Package spoil gives the compiler files with something wrong in them, beside those that stand (go help build, -overlay): nothing on disk
// changes.
package spoil

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// Edit is one place of a fault: a file below the module's folder, what stands there, and what stood there or could.
type Edit struct{ File, Is, Was string }

// Count is how often an edit finds its place. It must be once.
func (e Edit) Count(root string) (int, error) {
	raw, err := os.ReadFile(filepath.Join(root, filepath.FromSlash(e.File)))
	return strings.Count(string(raw), e.Is), err
}

// Overlay writes the spoilt files and their table into a folder, and gives the table's path.
func Overlay(root, tmp string, edits []Edit) (string, error) {
	texts := map[string]string{}
	for _, e := range edits {
		path := filepath.Join(root, filepath.FromSlash(e.File))
		text, ok := texts[path]
		if !ok {
			raw, err := os.ReadFile(path)
			if err != nil {
				return "", err
			}
			text = string(raw)
		}
		if n := strings.Count(text, e.Is); n != 1 {
			return "", fmt.Errorf("%s: %q stands in it %d times, wanted once", e.File, e.Is, n)
		}
		texts[path] = strings.Replace(text, e.Is, e.Was, 1)
	}
	return Files(tmp, texts)
}

// Files is Overlay for whole texts, by the path of the file in whose place each stands.
func Files(tmp string, texts map[string]string) (string, error) {
	replace := map[string]string{}
	for path, text := range texts {
		spoilt := filepath.Join(tmp, fmt.Sprintf("spoilt%d.go", len(replace)))
		if err := os.WriteFile(spoilt, []byte(text), 0o600); err != nil {
			return "", err
		}
		replace[path] = spoilt
	}
	table, err := json.Marshal(map[string]map[string]string{"Replace": replace})
	if err != nil {
		return "", err
	}
	overlay := filepath.Join(tmp, "overlay.json")
	return overlay, os.WriteFile(overlay, table, 0o600)
}
