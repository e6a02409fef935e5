//go:build js && wasm

// The bench in a browser: the sums of the trade for where there is no connection, by the same
// code that answers on the server. It sets the function wardifexBench(name, body), which takes
// the last part of an address under /api/bench and the JSON that is sent there, and gives
// {status, body}: what the server would answer.
package main

import (
	"encoding/json"
	"errors"
	"syscall/js"

	"wardifex/internal/core/bench"
)

var errUnknown = errors.New("this sum needs a connection")

func main() {
	js.Global().Set("wardifexBench", js.FuncOf(func(_ js.Value, args []js.Value) any {
		status, body := ask(args[0].String(), []byte(args[1].String()))
		return map[string]any{"status": status, "body": string(body)}
	}))
	select {} // the function is called for as long as the page is open
}

// ask answers as the address /api/bench/name does.
func ask(name string, body []byte) (status int, answer []byte) {
	out, err := work(name, body)
	if err != nil {
		return refused(err)
	}
	answer, err = json.Marshal(out)
	if err != nil {
		return refused(err) // a result that is no number
	}
	return 200, answer
}

// refused states what is wrong as the API does (RFC 9457); net/http for two numbers would
// double what is loaded.
func refused(err error) (status int, answer []byte) {
	text, _ := json.Marshal(err.Error())
	return 422, []byte(`{"status": 422, "title": "Unprocessable Entity", "detail": ` + string(text) + `}`)
}

func work(name string, body []byte) (any, error) {
	switch name {
	case "":
		return map[string]any{"calculators": bench.All()}, nil
	case "z-offset":
		var asked bench.ZOffsetAsked
		if err := json.Unmarshal(body, &asked); err != nil {
			return nil, err
		}
		return asked.Answer()
	}
	c, ok := bench.Find(name)
	if !ok {
		return nil, errUnknown
	}
	var asked struct {
		Inputs map[string]string `json:"inputs"`
	}
	if err := json.Unmarshal(body, &asked); err != nil {
		return nil, err
	}
	return c.Sum(asked.Inputs)
}
