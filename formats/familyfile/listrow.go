package familyfile

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
)

var (
	rangeEnds = regexp.MustCompile(`^\s*([+−-]?[\d.,]+)\s*\S{0,6}?\s*(?:\.{2,3}|…|–|—|~|to|-|/)\s*([+−-]?[\d.,]*\d)`)
	groupPart = regexp.MustCompile(`^(.+?)[.:/_-][^.:/_-]+$|^([A-Za-z]+|\d+)`)
	fullOnly  = regexp.MustCompile(`(?i)full|expert|advanced|service|high`)
	readOnly  = regexp.MustCompile(`(?i)^(ro|r|read|read[ -]?only)$`)
	affirmed  = regexp.MustCompile(`(?i)^(y|yes|x|true|1|ja|oui|on)$`)
	startsNum = regexp.MustCompile(`^[+-]?\d`)
	unitOfIt  = regexp.MustCompile(`^(.*\S)\s*[\[(]\s*([^\])]{1,8}?)\s*[\])]$`)
	numUnit   = regexp.MustCompile(`^[+−-]?[\d.,]+\s*([^\d\s.,;:=][^\d;:=]{0,7})$`)
	endUnit   = regexp.MustCompile(`\d\s*([^\d\s.,;:=\])(–—~…-][^\d;:=\])(]{0,7})\s*(?:[\[(].*)?$`)
	inEnd     = regexp.MustCompile(`[\[(]\s*(?:default|def\.?|factory)?\s*[:=]?\s*([+−-]?\d[\d.,]*)\s*[^\d\])]{0,8}[\])]\s*$`)
	starred   = regexp.MustCompile(`(?m)(\d+)\s*[=:.)–-]\s*[^;|/\n*(]*?\s*(\*|\((?:default|factory)\))`)
	starMark  = regexp.MustCompile(`\s*(\*|\((?:default|factory)\))`)
	thousands = regexp.MustCompile(`^[+-]?\d{1,3}(,\d{3})+(\.\d+)?$`)
)

// row makes a setting of a mended row; why says what keeps it from being one.
func (l *List) row(m mended) (r DraftRow, why string) {
	get := func(role string) string { return l.cell(m.cells, role) }
	r = DraftRow{Code: get("code"), Name: get("name"), Short: get("short"), Unit: dialect.ProposeUnit(get("unit")), Group: get("group"),
		Delivery: get("delivery"), Choices: get("choices"), From: m.place}
	said := func(field, text string) {
		m.read = append(m.read, fmt.Sprintf("%s: from “%s”", field, short([]string{text})))
	}
	if strings.Join(m.cells, "") == "" {
		return r, "empty"
	}
	if r.Code == "" {
		return r, fmt.Sprintf("no code; %q", short(m.cells))
	}
	if readOnly.MatchString(get("access")) {
		return r, fmt.Sprintf("%s is read only: it is no setting", r.Code)
	}
	if r.Name == "" {
		r.Name = r.Code
	}
	for field, to := range map[string]*string{"step": &r.Step, "min": &r.Min, "max": &r.Max} {
		*to = l.number(&r, get(field))
	}
	l.ranges(&r, get("range"), said)
	l.unit(&r, get("range"), said)
	if r.Group == "" {
		r.Group = m.group
	}
	if r.Group == "" {
		if p := groupPart.FindStringSubmatch(r.Code); p != nil {
			r.Group = p[1] + p[2]
		}
	}
	r.Running = affirmed.MatchString(get("running"))
	r.Full = fullOnly.MatchString(get("access"))
	l.register(&r, get("register"), get("type"), get("scale"))
	if s := starred.FindStringSubmatch(r.Choices); s != nil && r.Delivery == "" {
		r.Delivery = s[1]
		said("delivery", s[0])
	}
	r.Choices = starMark.ReplaceAllString(r.Choices, "")
	l.kind(&r)
	p := dialect.Propose(r.Name, r.Unit, r.Kind)
	r.Intent, r.Convention, r.Sure, r.Motion, r.Protects = p.Intent, p.Convention, p.Sure, p.Motion, p.Protects
	r.Sure = r.Sure && r.Why == ""
	r.ask(p.Why)
	if r.Kind == "choice" {
		r = withMeans(r)
	}
	if r.Intent == "" {
		l.doing(&r)
	}
	r.Read = strings.Join(m.read, "; ")
	return r, ""
}

// ask adds something that is to be looked up.
func (r *DraftRow) ask(what string) {
	if r.Why != "" && what != "" {
		what = r.Why + "; " + what
	}
	r.Why = cmp.Or(what, r.Why)
}

// number is a number of the list as the file wants it. A comma with three digits behind it could be thousands: where the list has decimal
// points it is, elsewhere somebody must look.
func (l *List) number(r *DraftRow, t string) string {
	t = strings.TrimSpace(t)
	if thousands.MatchString(t) {
		if l.points || strings.Contains(t, ".") || strings.Count(t, ",") > 1 {
			return plainNumber(strings.ReplaceAll(t, ",", ""))
		}
		r.ask(t + " could be thousands, or a decimal comma")
	}
	return plainNumber(t)
}

// ranges takes both ends, and a delivery value in brackets behind them, out of one cell; a cell with no ends has the choices.
func (l *List) ranges(r *DraftRow, text string, said func(field, text string)) {
	if text == "" {
		return
	}
	if m := inEnd.FindStringSubmatch(text); m != nil && r.Delivery == "" {
		r.Delivery = m[1]
		said("delivery", text)
	}
	m := rangeEnds.FindStringSubmatch(text)
	switch {
	case choiceCell.MatchString(text) && strings.ContainsAny(text, "=:\n"):
		m = nil
	case m != nil && r.Min == "" && r.Max == "":
		r.Min, r.Max = l.number(r, m[1]), l.number(r, m[2])
		said("lowest and highest", text)
	}
	if r.Choices == "" && m == nil {
		r.Choices = text // lists often put the choices where numbers have their range
		said("choices", text)
	}
}

// unit takes the unit from where it stands when it has no column: behind the name, the delivery value or the range.
func (l *List) unit(r *DraftRow, rng string, said func(field, text string)) {
	if m := unitOfIt.FindStringSubmatch(r.Name); m != nil && dialect.IsUnit(m[2]) {
		if r.Unit == "" {
			r.Unit = dialect.ProposeUnit(m[2])
			said("unit", r.Name)
		}
		r.Name = m[1]
	}
	for _, from := range []struct {
		text string
		at   *regexp.Regexp
	}{{r.Delivery, numUnit}, {rng, endUnit}} {
		if m := from.at.FindStringSubmatch(from.text); m != nil && r.Unit == "" && dialect.IsUnit(m[1]) {
			r.Unit = dialect.ProposeUnit(m[1])
			said("unit", from.text)
		}
	}
}

// registerTypes are the words by which lists name what a register holds.
var registerTypes = []struct {
	words *regexp.Regexp
	kind  string
}{
	{regexp.MustCompile(`(?i)^(u(nsigned)?[ _]?(int)?[ _]?32|udint|dword|unsigned ?long)$`), "u32"},
	{regexp.MustCompile(`(?i)^(s(igned)?[ _]?(int)?[ _]?32|i(nt(eger)?)?[ _]?32|dint|long)$`), "s32"},
	{regexp.MustCompile(`(?i)^(s(igned)?[ _]?(int)?[ _]?16|i(nt(eger)?)?[ _]?16|int|signed|short)$`), "s16"},
	{regexp.MustCompile(`(?i)^(u(nsigned)?[ _]?(int)?[ _]?16|uint|word|unsigned)$`), "u16"},
	{regexp.MustCompile(`(?i)^(string|text|ascii|char.*)$`), "text"},
}

// register takes the register with how the list counts it, what it holds and how it is scaled.
func (l *List) register(r *DraftRow, text, kind, scale string) {
	if text == "" {
		return
	}
	r.Register = text
	if n, err := strconv.Atoi(text); err == nil && Countings[l.Counting] > 0 {
		r.Register = strconv.Itoa(n - Countings[l.Counting])
	}
	for _, t := range registerTypes {
		if t.words.MatchString(strings.TrimSpace(kind)) {
			r.RegisterType = t.kind
			break
		}
	}
	if kind != "" && r.RegisterType == "" {
		r.ask(fmt.Sprintf("%s: a register of how many bits, with or without a sign?", kind))
	}
	f, err := strconv.ParseFloat(plainNumber(scale), 64)
	switch {
	case scale == "" || err != nil || f <= 0 || f == 1:
	case f < 1: // the value is the register times this
		r.Scale = strconv.FormatFloat(1/f, 'f', -1, 64)
		if r.Step == "" {
			r.Step = plainNumber(scale)
		}
	default:
		r.Scale = plainNumber(scale)
		r.ask("scale " + scale + ": is the register the value times this, or the value the register times this?")
	}
}

// kind works out what sort of setting it is, and fills what a number lacks: the step from its decimals.
func (l *List) kind(r *DraftRow) {
	if r.Choices != "" {
		if list, err := parseChoices(r.Choices, ""); err == nil && len(list) > 0 {
			r.Kind = "choice"
			r.Delivery = choiceValue(list, r.Delivery)
			if r.Delivery == "" {
				r.Delivery = fmt.Sprint(list[0].Value)
				r.ask("the list gives no delivery value: the first choice stands here")
			}
			r.Step, r.Min, r.Max = "", "", ""
			return
		}
	}
	number := l.number(r, r.Delivery)
	if number == "" {
		number = r.Min
		if number != "" {
			r.ask("the list gives no delivery value: the lowest stands here")
		}
	}
	if !startsNum.MatchString(number) {
		r.Kind = "text"
		if r.Max == "" {
			r.Max = "16"
		}
		r.Step, r.Min = "", ""
		return
	}
	r.Kind, r.Delivery, r.Choices = "number", number, ""
	if r.Step == "" {
		r.Step = "1"
		decimals := 0
		for _, t := range []string{r.Delivery, r.Min, r.Max} {
			if _, frac, ok := strings.Cut(t, "."); ok {
				decimals = max(decimals, len(frac))
			}
		}
		if decimals > 0 {
			r.Step = "0." + strings.Repeat("0", decimals-1) + "1"
		}
	}
}

// withMeans writes the proposed meaning behind each choice, so that a person sees and can change it.
func withMeans(r DraftRow) DraftRow {
	list, err := parseChoices(r.Choices, r.Intent)
	if err != nil {
		return r
	}
	if r.Intent == "" && !strings.Contains(r.Choices, "→") {
		texts := make([]string, len(list))
		for i, c := range list {
			texts[i] = c.Text
		}
		for i, means := range dialect.ProposeFunctions(r.Name, texts) {
			if list[i].Means = means; means != "" {
				r.Sure = false
			}
		}
		if slices.ContainsFunc(list, func(c dialect.Choice) bool { return c.Means != "" }) {
			r.ask("what each choice stands for is read from its words")
		}
	}
	s := dialect.Setting{Choices: list}
	r.Choices = rowOf(&s).Choices
	if strings.HasPrefix(r.Intent, "choice.") && !slices.ContainsFunc(list, func(c dialect.Choice) bool { return c.Means != "" }) {
		r.Sure = false
		r.ask("no choice's words tell what it means: write it behind an arrow")
	}
	return r
}

// doing proposes what a setting without an intent does, by its name. Only one setting does a thing: what was proposed before is not again.
func (l *List) doing(r *DraftRow) {
	list, err := parseChoices(r.Choices, "")
	if err != nil {
		list = nil
	}
	texts := make([]string, len(list))
	for i, c := range list {
		texts[i] = c.Text
	}
	name, means := dialect.ProposeDoing(r.Name, r.Kind, texts)
	if name == "" || l.does[name] {
		return
	}
	if l.does == nil {
		l.does = map[string]bool{}
	}
	l.does[name] = true
	r.Drives, r.Sure = name, false
	r.ask("what it does is read from its name")
	if r.Kind == "choice" && !strings.Contains(r.Choices, "→") && slices.ContainsFunc(means, func(m string) bool { return m != "" }) {
		for i := range list {
			list[i].Means = means[i]
		}
		s := dialect.Setting{Choices: list}
		r.Choices = rowOf(&s).Choices
	}
}
