package plate

import "testing"

func misread() Plate {
	r := EmptyRow()
	r.Power, r.Voltage, r.Current, r.Frequency, r.Speed, r.Factor = 7500, 400, 16.5, 50, 1455, .83
	o := r
	o.Voltage, o.Current = 230, 26.8
	return Plate{Kind: Induction, ServiceFactor: 1.15, Row: r, Others: []Row{o}}
}

func BenchmarkJudgeRow(b *testing.B) {
	p := misread()
	b.ReportAllocs()
	for b.Loop() {
		Judge(p)
	}
}

func BenchmarkMisreadings(b *testing.B) {
	p := misread()
	b.ReportAllocs()
	for b.Loop() {
		Misreadings(p, 5)
	}
}
