package dialect_test

import (
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// What the shipped families say of their terminals' choices is what would be proposed from the words alone, or nothing is: never another
// function.
func TestFunctionsOfTerminalsAreProposedFromTheirWords(t *testing.T) {
	right, silent := 0, 0
	for _, name := range []string{"Tarn", "Brae", "Voe"} {
		f := familyfile.Find(name)
		seen := map[string]bool{}
		for _, x := range f.Terminals {
			s, ok := f.Setting(x.Setting)
			kind := map[string]string{"digital-in": "input", "relay": "relay", "digital-out": "output"}[x.Kind]
			if !ok || kind == "" || seen[s.Code] || len(s.Choices) == 0 {
				continue
			}
			seen[s.Code] = true
			var texts []string
			for _, c := range s.Choices {
				texts = append(texts, c.Text)
			}
			got := dialect.ProposeFunctions("Function of "+kind+" 1", texts)
			for i, c := range s.Choices {
				switch got[i] {
				case c.Means:
					right++
				case "":
					silent++
				default:
					t.Errorf("%s %s: %q is proposed as %q, it is %q", name, s.Code, c.Text, got[i], c.Means)
				}
			}
		}
	}
	if right < 6*silent {
		t.Errorf("%d are right, and of %d nothing is said", right, silent)
	}
	if dialect.ProposeFunctions("Motor power", []string{"run forward"}) != nil || dialect.ProposeFunctions("Analog input 1",
		[]string{"stop"}) != nil {
		t.Error("what is no terminal's function is taken for one")
	}
	if got := dialect.ProposeFunctions("Relay 1", []string{"not ready", "ready"}); got[0] != "" || got[1] != "ready" {
		t.Errorf("%q", got)
	}
}
