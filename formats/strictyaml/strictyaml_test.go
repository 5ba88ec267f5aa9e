package strictyaml

import (
	"runtime"
	"strings"
	"testing"
)

type thing struct {
	Name string            `yaml:"name"`
	List []any             `yaml:"list"`
	Map  map[string]string `yaml:"map"`
}

func TestStrict(t *testing.T) {
	var x thing
	if err := Decode([]byte("name: a\nmap: {b: c}\n"), &x); err != nil || x.Name != "a" || x.Map["b"] != "c" {
		t.Fatalf("%+v %v", x, err)
	}
	for text, want := range map[string]string{
		"name: a\nother: b\n":          "other",
		"name: a\nname: b\n":           "line 2: got the key \"name\", which stands on line 1 already",
		"map: {b: c, b: d}\n":          "which stands",
		"map: &m {b: c}\nlist: [*m]\n": "anchor or alias",
		"name: a\n---\nname: b\n":      "second document",
		"list: " + strings.Repeat("[", 60) + strings.Repeat("]", 60): "deep",
		"? [a]\n: b\n": "no word",
	} {
		if err := Decode([]byte(text), &x); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.40q: %v, want %s", text, err, want)
		}
	}
}

// 16 kB of one key again and again, or of aliases of aliases, take no more memory than their size calls for.
func TestSmallFilesStaySmall(t *testing.T) {
	bombs := map[string]string{"keys": "map:\n" + strings.Repeat("  a: b\n", 2300)}
	b := "list:\n  - &a0 [x, x, x, x, x, x, x, x, x]\n"
	for i := 1; i < 30; i++ {
		b += "  - &a" + string(rune('0'+i)) + " [" + strings.TrimSuffix(strings.Repeat("*a"+string(rune('0'+i-1))+", ", 9), ", ") + "]\n"
	}
	bombs["aliases"] = b
	for name, text := range bombs {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		if err := Decode([]byte(text), &thing{}); err == nil {
			t.Errorf("%s: taken", name)
		}
		runtime.ReadMemStats(&after)
		if mb := (after.TotalAlloc - before.TotalAlloc) >> 20; mb > 40 {
			t.Errorf("%s: %d MB for %d bytes", name, mb, len(text))
		}
	}
}
