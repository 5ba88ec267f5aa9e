package dialect

import (
	"regexp"
	"strconv"
	"strings"
)

// functionOf is what a terminal does, by the words that manuals use for it. The first that fits is taken. Common practice.
type functionOf struct {
	words *regexp.Regexp
	means string
}

func functionWords(l [][2]string) (out []functionOf) {
	for _, w := range l {
		out = append(out, functionOf{regexp.MustCompile(`\b(?:` + w[0] + `)`), w[1]})
	}
	return out
}

var inputWords = functionWords([][2]string{
	{`(jog|inch|creep)\w*\W+(rev|back)`, "jog-reverse"}, {`jog|inch|creep`, "jog"},
	{`rev(erse)?\b|backward`, "run-reverse"}, {`forward|fwd`, "run-forward"},
	{`start (pulse|button)`, "start"}, {`(quick|fast)[ -]?stop`, "quick-stop"},
	{`(external|outside)\W+(fault|trip)|fault outside`, "external-fault"}, {`reset|acknowledge|clear`, "reset"},
	{`interlock`, "interlock"}, {`coast|let go|free ?wheel`, "coast"}, {`stop\b`, "stop"},
	{`faster|motor.?pot\w*\W+up|up\b`, "faster"}, {`slower|motor.?pot\w*\W+down|down\b`, "slower"},
	{`(second|other|2nd) ramp`, "second-ramp"}, {`(by )?hand\b`, "hand"}, {`(no torque limit|torque limit off)`, "torque-limit-off"},
	{`run\b`, "run-forward"},
})

var outputWords = functionWords([][2]string{
	{`torque.?off|sto\b`, "torque-off"}, {`brake\W+(open|release)`, "brake-open"}, {`warning`, "warning"}, {`fault|trip|alarm`, "fault"},
	{`at (speed|reference)|(speed|target|reference) reached`, "at-speed"}, {`(at |current )?limit`, "current-limit"},
	{`interlock`, "interlock-open"}, {`not ready|not running`, ""}, {`ready`, "ready"}, {`running|turning`, "running"},
	{`(by )?hand\b`, "hand"},
})

var presetBit = regexp.MustCompile(`\b(?:preset|fixed speed|multi\w*)\W+(?:speed\W+)?(?:bit\W+)?(\d)`)

var (
	ofInput  = regexp.MustCompile(`\b(input|terminal|di ?\d*)\b`)
	ofOutput = regexp.MustCompile(`\b(relay|output|do ?\d*)\b`)
)

// ProposeFunctions says what the choices of a terminal's setting stand for, by the setting's name and their words: nil when it is none, and
// an empty word for what tells nothing. Somebody looks at it: what an input does may start the motor.
func ProposeFunctions(name string, texts []string) []string {
	words := inputWords
	switch n := strings.ToLower(name); {
	case strings.Contains(n, "analog"):
		return nil
	case ofOutput.MatchString(n):
		words = outputWords
	case !ofInput.MatchString(n):
		return nil
	}
	out := make([]string, len(texts))
	least := 10
	for _, t := range texts {
		if m := presetBit.FindStringSubmatch(strings.ToLower(t)); m != nil {
			n, _ := strconv.Atoi(m[1])
			least = min(least, n) // some count bits from 0, some from 1
		}
	}
	for i, t := range texts {
		t = strings.ToLower(t)
		if m := presetBit.FindStringSubmatch(t); m != nil && ofInput.MatchString(strings.ToLower(name)) {
			n, _ := strconv.Atoi(m[1])
			out[i] = "preset-" + strconv.Itoa(n-least)
			continue
		}
		for _, w := range words {
			if w.words.MatchString(t) {
				out[i] = w.means
				break
			}
		}
	}
	return out
}
