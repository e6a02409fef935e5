package e2e

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
)

// contract is the API's own description, by which every answer that a page gets is checked: a
// list that is null, or a field that is left out, breaks a page that trusts it.
type contract struct {
	Paths map[string]map[string]struct {
		Responses map[string]struct {
			Content map[string]struct{ Schema shape }
		}
	}
	Components struct{ Schemas map[string]shape }
}

// shape is as much of a schema as it takes to see what is missing.
type shape struct {
	Ref        string `json:"$ref"`
	Type       any
	Properties map[string]shape
	Required   []string
	Items      *shape
	Additional json.RawMessage `json:"additionalProperties"`
}

// checked is a handler whose JSON answers are held against the contract.
func checked(openAPI []byte, next http.Handler, tell func(fault string)) (http.Handler, error) {
	var c contract
	if err := json.Unmarshal(openAPI, &c); err != nil {
		return nil, err
	}
	var mu sync.Mutex
	told := map[string]bool{}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		kept := &keeping{ResponseWriter: w, status: http.StatusOK}
		next.ServeHTTP(kept, r)
		s, ok := c.answer(r.Method, r.URL.Path, kept.status)
		text := kept.body.Bytes()
		if kept.Header().Get("Content-Encoding") == "gzip" {
			if z, err := gzip.NewReader(&kept.body); err == nil {
				text, _ = io.ReadAll(z)
			}
		}
		var body any
		if !ok || json.Unmarshal(text, &body) != nil {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		for _, fault := range c.faults(s, body, "") {
			if key := r.Method + " " + r.URL.Path + ": " + fault; !told[key] {
				told[key] = true
				tell("the answer breaks the API's description: " + key)
			}
		}
	}), nil
}

// keeping keeps what is written.
type keeping struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (k *keeping) Unwrap() http.ResponseWriter { return k.ResponseWriter }
func (k *keeping) WriteHeader(status int)      { k.status = status; k.ResponseWriter.WriteHeader(status) }
func (k *keeping) Write(b []byte) (int, error) { k.body.Write(b); return k.ResponseWriter.Write(b) }

// answer finds the schema of an answer: of the address itself before those with a part that is any.
func (c contract) answer(method, path string, status int) (found shape, is bool) {
	parts := strings.Split(path, "/")
	exact := false
	for template, operations := range c.Paths {
		of := strings.Split(template, "/")
		same := len(of) == len(parts)
		for i := 0; same && i < len(of); i++ {
			same = of[i] == parts[i] || strings.HasPrefix(of[i], "{")
		}
		if o, ok := operations[strings.ToLower(method)]; same && ok && !exact {
			s, ok := o.Responses[fmt.Sprint(status)].Content["application/json"]
			found, is, exact = s.Schema, ok, template == path
		}
	}
	return found, is
}

// faults are the places where a value is null or lacks a field, against its schema.
func (c contract) faults(s shape, v any, at string) (found []string) {
	if s.Ref != "" {
		s = c.Components.Schemas[strings.TrimPrefix(s.Ref, "#/components/schemas/")]
	}
	switch v := v.(type) {
	case nil:
		if kind, ok := s.Type.(string); ok {
			return []string{fmt.Sprintf("%s is null, not of type %s", at, kind)}
		}
	case []any:
		for _, item := range v[:min(len(v), 40)] {
			if s.Items != nil {
				found = append(found, c.faults(*s.Items, item, at+"[]")...)
			}
		}
	case map[string]any:
		for _, name := range s.Required {
			if _, ok := v[name]; !ok {
				found = append(found, at+"."+name+" is missing")
			}
		}
		var additional shape
		_ = json.Unmarshal(s.Additional, &additional) // false where there are none
		for name, field := range v {
			of, ok := s.Properties[name]
			if !ok {
				of = additional
			}
			found = append(found, c.faults(of, field, at+"."+name)...)
		}
	}
	return found
}
