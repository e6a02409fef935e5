package main

import (
	"bytes"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

func TestWhatIsPrintedAndTimed(t *testing.T) {
	var out bytes.Buffer
	times, err := follow(&out, strings.NewReader(strings.Join([]string{
		`{"Action":"build-output","ImportPath":"p","Output":"p.go:1: no such thing\n"}`,
		`{"Action":"output","Package":"p","Test":"TestGood","Output":"quiet\n"}`,
		`{"Action":"pass","Package":"p","Test":"TestGood/sub","Elapsed":9}`,
		`{"Action":"pass","Package":"p","Test":"TestGood","Elapsed":2}`,
		`{"Action":"output","Package":"p","Test":"TestBad","Output":"wrong\n"}`,
		`{"Action":"fail","Package":"p","Test":"TestBad","Elapsed":3}`,
		`{"Action":"output","Package":"p","Test":"TestCutOff","Output":"panic\n"}`,
		`{"Action":"output","Package":"p","Output":"FAIL\tp\t5s\n"}`,
		`not JSON`}, "\n")))
	if err != nil {
		t.Fatal(err)
	}
	if want := "p.go:1: no such thing\nwrong\nFAIL\tp\t5s\nnot JSON\npanic\n"; out.String() != want {
		t.Errorf("%q, want %q", out.String(), want)
	}
	if want := []timed{{"p", "TestGood", 2}, {"p", "TestBad", 3}}; !slices.Equal(times, want) {
		t.Errorf("%v, want %v", times, want)
	}
	file := filepath.Join(t.TempDir(), "times")
	if err := keep(file, times); err != nil {
		t.Fatal(err)
	}
	out.Reset()
	began := time.Now().Add(-time.Minute).Unix()
	if err := slowest(&out, file, 0, began); err != nil || strings.Index(out.String(), "TestBad") >
		strings.Index(out.String(), "TestGood") {
		t.Errorf("%s, %v", out.String(), err)
	}
	if err := slowest(&out, file, 2*time.Minute, began); err != nil {
		t.Errorf("within the budget: %v", err)
	}
	if err := slowest(&out, file, 30*time.Second, began); err == nil {
		t.Error("over the budget, and nobody says so")
	}
	if err := os.WriteFile(file, []byte("{"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := slowest(&out, file, 0, 0); err == nil {
		t.Error("a broken file is shown")
	}
}
