package standin

import (
	"context"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"dapper.example/internal/core/followers"
)

// crowd are simulated followers, who click the links of messages. They go only to this machine.
type crowd struct {
	client *http.Client
	room   chan struct{} // how many click at the same moment
}

// clickPatience is how long a follower waits for a page.
const clickPatience = 5 * time.Second

func newCrowd() *crowd {
	return &crowd{room: make(chan struct{}, 4), client: &http.Client{Timeout: clickPatience,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// Follow has followers click the links of messages that come from now on, until the context ends.
func (n *Network) Follow(ctx context.Context) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.crowd, n.following = newCrowd(), ctx
}

// follow has followers click the link of a message in their time; n is locked.
func (n *Network) follow(m Message) {
	if n.crowd == nil || m.InReplyTo != "" {
		return
	}
	link := n.firstLink(m.Text)
	if link == "" || !isHere(link) {
		return
	}
	words, _, _ := strings.Cut(m.Text, link)
	said := followers.Said{Network: n.network.Kind(), Text: m.Text, Wording: words, At: m.At}
	for _, other := range n.messages {
		if strings.Contains(other.Text, strings.TrimSpace(words)) {
			said.Nth++
		}
	}
	ctx, crowd := n.following, n.crowd
	for _, after := range said.Clicks() {
		timer := n.clock.AfterFunc(after, func() { crowd.click(ctx, link) })
		context.AfterFunc(ctx, func() { timer.Stop() })
	}
}

func (n *Network) firstLink(text string) string {
	for _, span := range n.network.Limits().Links.Find(text) {
		return text[span.From:span.To]
	}
	return ""
}

// isHere tells whether a link leads to this machine.
func isHere(link string) bool {
	u, err := url.Parse(link)
	if err != nil || u.Scheme != "http" {
		return false
	}
	ip := net.ParseIP(u.Hostname())
	return u.Hostname() == "localhost" || ip != nil && ip.IsLoopback()
}

// browsers are what followers read with.
var browsers = []string{
	"Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0",
	"Mozilla/5.0 (iPhone; CPU iPhone OS 18_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.5 Mobile/15E148 Safari/604.1",
}

func (c *crowd) click(ctx context.Context, link string) {
	select {
	case c.room <- struct{}{}:
		defer func() { <-c.room }()
	case <-ctx.Done():
		return
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, link, nil)
	if err != nil {
		return
	}
	request.Header.Set("User-Agent", browsers[len(link)%len(browsers)])
	answer, err := c.client.Do(request)
	if err == nil {
		answer.Body.Close()
	}
}
