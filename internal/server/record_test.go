package server_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/jpeg"
	"net/url"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
)

// body is JSON as the API's operations take it.
type body = map[string]any

// From a bare machine by questions to a machine known: the questions, the
// answer decoded as typed, what could not be read, and what contradicts.
func TestIdentification(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(
		200,
		`"id":1`,
		"POST",
		"/api/machines",
		body{"name": "A", "bay": "Quay", "maker": "", "serial": "", "note": ""},
	)
	text := c.wants(200, `"key":"mainboard.chip-maker"`, "GET", "/api/identify?machine=1&kit=plumbline-probe", nil)
	var asked struct {
		Questions []struct {
			Key        string
			Inspection struct{ Key string }
		}
	}
	if err := json.Unmarshal([]byte(text), &asked); err != nil || asked.Questions[0].Inspection.Key != "display" {
		t.Fatalf("the first question: %+v, %v", asked.Questions, err)
	}
	c.wants(404, "", "GET", "/api/identify?machine=1&kit=ghost", nil)
	c.wants(
		200,
		`"cells":[{"label":"pins","value":"64"},{"label":"flash","value":"256 KiB"}`,
		"GET",
		"/api/machines/1/peek?key=mainboard.processor&text=RCT6",
		nil,
	)
	c.wants(200, "The marking was misread", "GET", "/api/machines/1/peek?key=mainboard.processor&text=R0", nil)
	c.wants(
		200,
		`"id":`,
		"POST",
		"/api/machines/1/readings",
		body{"key": "mainboard.processor", "value": "RCT6", "grade": "observed"},
	)
	c.wants(200, "stands for 256 KiB", "GET", "/api/machines/1/peek?key=mainboard.flash&text=512", nil)
	c.wants(
		204,
		"",
		"POST",
		"/api/machines/1/unreadable",
		body{"key": "mainboard.chip-maker", "inspection": "ribbon", "why": "worn off"},
	)
	text = c.wants(200, `"notRead":[{"key":"mainboard.chip-maker"`, "GET", "/api/identify?machine=1&kit=plumbline-probe",
		nil)
	if asked, _, _ := strings.Cut(text, `"notRead"`); strings.Contains(asked, `"key":"mainboard.chip-maker"`) {
		t.Error("what could not be read is asked the same way again")
	}
	mark := body{"key": "mainboard.chip-maker", "inspection": "ribbon"}
	c.wants(204, "", "POST", "/api/machines/1/readable", mark)
	c.wants(404, "", "POST", "/api/machines/1/readable", mark)
	c.wants(200, `"notRead":[]`, "GET", "/api/identify?machine=1&kit=plumbline-probe", nil)
	c.wants(
		422,
		"prove",
		"POST",
		"/api/machines/1/readings",
		body{"key": "mainboard.shield-letter", "value": "C", "grade": "observed"},
	)
	c.wants(
		200,
		`"type":"Pt100"`,
		"POST",
		"/api/bench/sensor",
		body{"ohms": []string{"107.8", "123.2"}, "celsius": []string{"20", "60"}},
	)
	c.wants(
		422,
		"no resistance",
		"POST",
		"/api/bench/sensor",
		body{"ohms": []string{"open", "123.2"}, "celsius": []string{"20", "60"}},
	)
	c.wants(200, "[]", "GET", "/api/machines/1/contradictions", nil)
}

func TestAskingTheFleet(t *testing.T) {
	base, _ := start(t)
	c := signedIn(t, base, "technician")
	for i, flash := range []string{"512", "256"} {
		c.wants(
			200,
			"",
			"POST",
			"/api/machines",
			body{"name": fmt.Sprint("M", i+1), "bay": "", "maker": "", "serial": "", "note": ""},
		)
		c.wants(
			200,
			"",
			"POST",
			fmt.Sprintf("/api/machines/%d/readings", i+1),
			body{"key": "mainboard.flash", "value": flash, "grade": "observed", "day": "2026-04-01"},
		)
	}
	q := body{
		"columns": []string{"mainboard.flash", "machine.state"},
		"where":   []body{{"of": "mainboard.flash", "test": "at least", "value": "512"}},
	}
	c.wants(200, `"of":2`, "POST", "/api/fleet/ask", q)
	c.wants(422, "There is no column", "POST", "/api/fleet/ask", body{"columns": []string{"ghost"}, "where": []body{}})
	c.wants(
		422,
		"still to come",
		"POST",
		"/api/fleet/ask",
		body{"columns": []string{}, "where": []body{}, "at": "2030-01-01"},
	)
	// Before the machines were in the register there is nobody to ask.
	c.wants(200, `"of":0`, "POST", "/api/fleet/ask", body{"columns": []string{}, "where": []body{}, "at": "2026-03-01"})
	text, _ := json.Marshal(q)
	if csv := c.wants(200, "M1,512 KiB,observed", "GET", "/api/answer.csv?q="+url.QueryEscape(string(text)),
		nil); strings.Contains(
		csv,
		"M2",
	) {
		t.Errorf("the filter is lost on the way to CSV: %s", csv)
	}
	c.wants(200, `"name": "M1"`, "GET", "/api/answer.json?q="+url.QueryEscape(string(text)), nil)
	c.wants(422, "cannot be read", "GET", "/api/answer.csv?q=nothing", nil)
	c.wants(200, `"id":1`, "POST", "/api/questions", body{"name": "Large", "question": q})
	c.wants(200, `"name":"Large"`, "GET", "/api/fleet/askable", nil)
	c.wants(200, "512 KiB", "GET", "/api/compare?a=1&b=2", nil)
	c.wants(422, "is not a date", "GET", "/api/compare?a=1&b=1&dayA=yesterday", nil)
	c.wants(404, "", "GET", "/api/compare?a=1&b=99", nil)
	c.wants(200, `"value":"512 KiB"`, "GET", "/api/machines/1/as-of?day=2026-05-01", nil)
}

// png of a size that it only says, with nothing in it.
func emptyPNG(w, h uint32) []byte {
	head := binary.BigEndian.AppendUint32([]byte("IHDR"), w)
	head = append(binary.BigEndian.AppendUint32(head, h), 8, 2, 0, 0, 0)
	out := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"), head...)
	return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(head))
}

func TestPhotosOfReadingsAndFaults(t *testing.T) {
	url, _ := start(t)
	c, member := signedIn(t, url, "technician"), signedIn(t, url, "member")
	c.wants(200, "", "POST", "/api/machines", body{"name": "A", "bay": "", "maker": "", "serial": "", "note": ""})
	c.wants(
		200,
		`"id":1`,
		"POST",
		"/api/machines/1/readings",
		body{"key": "supply.watts", "value": "350", "grade": "marked"},
	)
	var photo bytes.Buffer
	if err := jpeg.Encode(&photo, image.NewGray(image.Rect(0, 0, 900, 600)), nil); err != nil {
		t.Fatal(err)
	}
	c.wants(422, "60 million points; at most 40", "POST", "/api/readings/1/photos", emptyPNG(10_000, 6_000))
	c.wants(422, "not a picture", "POST", "/api/readings/1/photos", []byte(`<svg onload="alert(1)"/>`))
	c.wants(404, "", "POST", "/api/readings/99/photos", photo.Bytes())
	c.wants(200, `"id":1`, "POST", "/api/readings/1/photos", photo.Bytes())
	c.wants(200, `"photos":[1]`, "GET", "/api/machines/1", nil)
	_, small := c.call("GET", "/api/photos/1?small=true", nil)
	if size, err := jpeg.DecodeConfig(strings.NewReader(small)); err != nil || size.Width != 480 {
		t.Errorf("the small copy: %+v, %v", size, err)
	}
	member.wants(200, `"id":1`, "POST", "/api/machines/1/faults", body{"words": "it clicks"})
	member.wants(200, `"id":2`, "POST", "/api/faults/1/photos", photo.Bytes())
	c.wants(200, `"ids":[1]`, "POST", "/api/purchases", body{"orders": []body{{"supplier": "Quay Supplies",
		"lines": []body{{"what": "Paste", "count": 1}}}}})
	c.wants(200, `"id":1`, "POST", "/api/purchases/1/arrivals",
		body{"lineId": 1, "kept": 0, "outcome": "damaged", "note": "torn"})
	c.wants(200, `"id":3`, "POST", "/api/arrivals/1/photos", photo.Bytes())
	member.wants(200, "", "GET", "/api/photos/2", nil)
	member.wants(404, "", "GET", "/api/photos/3", nil)
	c.wants(200, "", "GET", "/api/photos/3", nil)
	member.wants(200, `"photos":[2]`, "GET", "/api/faults?machine=1", nil)
	member.wants(200, "extruder-clicks", "GET", "/api/symptoms?words=it+clicks", nil)
}

func TestCatalogueAndRecordFiles(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	text := c.wants(200, `"format": "wardifex-catalogue"`, "GET", "/api/catalogue.json", nil)
	if _, err := catalogue.ReadFile([]byte(text)); err != nil {
		t.Errorf("what goes out cannot be read: %v", err)
	}
	c.wants(200, `"added":[],"changed":[]`, "POST", "/api/catalogue/preview", c.sends([]byte(text)))
	bad := strings.Replace(text, `"unit": "KiB"`, `"unit": "bushels"`, 1)
	c.wants(200, "bushels", "POST", "/api/catalogue/preview", c.sends([]byte(bad)))
	c.wants(422, "Nothing was changed", "POST", "/api/catalogue/import", c.sends([]byte(bad)))
	c.wants(
		422,
		"version 7",
		"POST",
		"/api/record/preview",
		c.sends([]byte(`{"format": "wardifex-record", "version": 7}`)),
	)
	c.wants(200, "", "POST", "/api/machines", body{"name": "A", "bay": "", "maker": "", "serial": "", "note": ""})
	whole := c.wants(200, `"name": "A"`, "GET", "/api/record.json?machine=1", nil)
	c.wants(422, "A machine is named by its number", "GET", "/api/record.json?machine=one", nil)
	c.wants(200, "named A already", "POST", "/api/record/preview", c.sends([]byte(whole)))
	c.wants(
		200,
		`"machines":["B"]`,
		"POST",
		"/api/record/import",
		c.sends([]byte(strings.Replace(whole, `"name": "A"`, `"name": "B"`, 1))),
	)
}
