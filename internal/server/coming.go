package server

import (
	"errors"
	"io"
	"net/http"
	"os"
	"time"
)

// pace bounds how slowly a body may come: whoever sends one holds a connection, and for a file memory or a reader.
type pace struct {
	grace time.Duration // in which nothing may come, and by which a body may be behind the rate
	rate  int64         // bytes per second
	most  time.Duration // in which all of it has to be in; 0 for as long as it takes at the rate
}

// The paces of what is typed, of a file that is held in memory, and of a large one that is handed on as it comes.
var (
	typedPace  = pace{grace: 20 * time.Second, rate: 16 << 10, most: time.Minute}
	filePace   = pace{grace: 20 * time.Second, rate: 16 << 10, most: 2 * time.Minute}
	streamPace = pace{grace: 20 * time.Second, rate: 16 << 10}
)

// errTooSlow reports a body that comes more slowly than its pace.
var errTooSlow = newProblem(http.StatusRequestTimeout,
	"What was sent came too slowly and was given up, so nothing was saved. Send it again over a faster connection.", nil)

// coming is a body as it comes over a connection. The time in which the server does not read is not
// counted against its pace. The connection's own deadlines are set anew with each piece, and lifted
// when the body is in: they would end what is then done with it.
type coming struct {
	io.ReadCloser
	connection *http.ResponseController
	pace
	waited time.Duration
	got    int64
}

func newComing(body io.ReadCloser, w http.ResponseWriter, p pace) *coming {
	return &coming{ReadCloser: body, connection: http.NewResponseController(w), pace: p}
}

// left is how long more of the body is waited for.
func (c *coming) left() time.Duration {
	// In seconds first: bytes times nanoseconds overflow after 8 GiB.
	due := time.Duration(float64(c.got) / float64(c.rate) * float64(time.Second))
	left := min(c.grace, c.grace+due-c.waited)
	if c.most > 0 {
		left = min(left, c.most-c.waited)
	}
	return left
}

func (c *coming) Read(p []byte) (int, error) {
	left := c.left()
	if left <= 0 {
		return 0, errTooSlow
	}
	began := time.Now()
	until := began.Add(left)
	_ = c.connection.SetReadDeadline(until) // where the connection cannot, its own bounds hold
	_ = c.connection.SetWriteDeadline(until.Add(answerTime))
	n, err := c.ReadCloser.Read(p)
	c.got += int64(n)
	c.waited += time.Since(began)
	if errors.Is(err, os.ErrDeadlineExceeded) {
		return n, errTooSlow
	}
	if err != nil {
		c.over()
	}
	return n, err
}

// answerTime is how long an answer may take to be written once the body is in.
const answerTime = 3 * time.Minute

// over lifts what bounded the coming of the body.
func (c *coming) over() { endReading(c.connection) }

// endReading lifts the deadline of a connection from which nothing more of the request comes. It would otherwise end
// whatever takes longer to work out.
func endReading(c *http.ResponseController) {
	_ = c.SetReadDeadline(time.Time{})
	_ = c.SetWriteDeadline(time.Now().Add(answerTime))
}
