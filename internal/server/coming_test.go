package server

import (
	"errors"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"
)

// A body that drips is given up, one that comes at its pace is taken however long it takes, and what the server
// itself waits for is not counted.
func TestABodyHasToComeAtItsPace(t *testing.T) {
	t.Parallel()
	const tick = 30 * time.Millisecond
	for _, c := range []struct {
		name  string
		pace  pace
		piece int           // bytes every tick, 20 times
		rest  time.Duration // for which the server does not read, after each piece
		slow  bool
	}{
		{"at its pace", pace{grace: 5 * tick, rate: 1000}, 200, 0, false},
		{"dripping", pace{grace: 5 * tick, rate: 1000}, 1, 0, true},
		{"nothing comes", pace{grace: 5 * tick, rate: 1000}, 0, 0, true},
		{"at its pace, longer than the most", pace{grace: 5 * tick, rate: 1000, most: 8 * tick}, 200, 0, true},
		{"the server rests", pace{grace: 5 * tick, rate: 1000}, 200, 2 * tick, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			got := make(chan error, 1)
			srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				body, p := newComing(r.Body, w, c.pace), make([]byte, 64)
				for {
					_, err := body.Read(p)
					if err != nil {
						got <- err
						return
					}
					time.Sleep(c.rest)
				}
			}))
			defer srv.Close()
			conn, err := net.Dial("tcp", srv.Listener.Addr().String())
			if err != nil {
				t.Fatal(err)
			}
			defer conn.Close()
			go func() {
				_, _ = io.WriteString(conn, "POST / HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
				for range 20 {
					time.Sleep(tick)
					if c.piece == 0 {
						continue
					}
					if _, err := conn.Write(chunk(c.piece)); err != nil {
						return
					}
				}
				_, _ = io.WriteString(conn, "0\r\n\r\n")
			}()
			if err := <-got; errors.Is(err, errTooSlow) != c.slow {
				t.Errorf("ended with %v", err)
			}
		})
	}
}

func chunk(n int) []byte {
	return append([]byte{"0123456789abcdef"[n>>4], "0123456789abcdef"[n&15], '\r', '\n'},
		append(make([]byte, n), '\r', '\n')...)
}
