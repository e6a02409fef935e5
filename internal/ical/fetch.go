package ical

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"syscall"
	"time"
)

// Bounds of what is fetched from outside.
const (
	fetchTime     = 20 * time.Second
	mostRedirects = 3
)

var errInternal = errors.New("this address lies within a network that is not public; only public ones are read")

// Fetcher reads calendars from public addresses. The address that a name stands for is checked as
// it is dialled, so that a name that changes what it stands for leads nowhere else.
type Fetcher struct {
	client *http.Client
}

// NewFetcher gives a fetcher of what may be dialled: nil is every public address.
func NewFetcher(may func(netip.AddrPort) bool) *Fetcher {
	if may == nil {
		may = public
	}
	dialer := net.Dialer{Timeout: fetchTime / 2, Control: func(_, address string, _ syscall.RawConn) error {
		at, err := netip.ParseAddrPort(address)
		if err != nil || !may(at) {
			return errInternal
		}
		return nil
	}}
	return &Fetcher{&http.Client{
		Timeout: fetchTime,
		Transport: &http.Transport{DialContext: dialer.DialContext, Proxy: nil, DisableKeepAlives: true,
			TLSHandshakeTimeout: fetchTime / 2, ResponseHeaderTimeout: fetchTime / 2, MaxResponseHeaderBytes: 64 << 10},
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			if len(via) > mostRedirects || r.URL.Scheme != "https" && r.URL.Scheme != "http" || r.URL.User != nil {
				return errors.New("it leads on too often, or to something that is no web address")
			}
			return nil
		},
	}}
}

// public reports whether an address is one of the public internet, on a port of the web.
func public(at netip.AddrPort) bool {
	ip := at.Addr().Unmap()
	for _, block := range notPublic {
		if block.Contains(ip) {
			return false
		}
	}
	return ip.IsValid() && ip.IsGlobalUnicast() && !ip.IsPrivate() && (at.Port() == 443 || at.Port() == 80)
}

// notPublic are further blocks that are not of the public internet.
// Source: IANA, IPv4 and IPv6 Special-Purpose Address Registries.
var notPublic = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"),
	netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("198.51.100.0/24"),
	netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"), netip.MustParsePrefix("64:ff9b::/96"),
	netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("2001::/23"), netip.MustParsePrefix("2001:db8::/32"),
	netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("fec0::/10"), netip.MustParsePrefix("::/96"),
	netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("3fff::/20"), netip.MustParsePrefix("5f00::/16"),
	netip.MustParsePrefix("192.88.99.0/24"),
}

// Fetch reads what is at an address. The caller closes it.
func (f *Fetcher) Fetch(ctx context.Context, address string) (io.ReadCloser, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, errors.New("this is no web address")
	}
	r.Header.Set("Accept", "text/calendar")
	answer, err := f.client.Do(r)
	switch {
	case errors.Is(err, errInternal):
		return nil, errInternal
	case err != nil:
		return nil, errors.New("nothing answered there within its time")
	case answer.StatusCode != http.StatusOK:
		answer.Body.Close()
		return nil, fmt.Errorf("it answered %d", answer.StatusCode)
	}
	return answer.Body, nil
}
