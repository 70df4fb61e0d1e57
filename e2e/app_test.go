// Package e2e drives the real interface in headless Chromium, as an editor would.
package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/channel"
	"dapper.example/internal/deliver"
	"dapper.example/internal/demo"
	"dapper.example/internal/digests"
	"dapper.example/internal/engine"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reach"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
	"dapper.example/web"
)

// start is the moment at which the demo world is loaded: Tuesday 24 November 2026,
// 10:20 in Halifax.
var start = time.Date(2026, 11, 24, 14, 20, 0, 0, time.UTC)

// filled is a database with the demo world, made once.
var filled = sync.OnceValues(func() (pgtest.Filled, error) {
	return pgtest.Fill(func(ctx context.Context, s *store.Store) error {
		if err := demo.Load(ctx, s, start); err != nil {
			return err
		}
		// Journeys sign in all the time, and none of them guesses passwords.
		hash, err := pgtest.CheapHash(demo.Password)
		if err != nil {
			return err
		}
		_, err = s.DB().ExecContext(ctx, `update users set password_hash = $1`, hash)
		return err
	})
})

func world(t testing.TB) pgtest.Filled {
	t.Helper()
	f, err := filled()
	require.NoError(t, err)
	return f
}

// brief tells whether the run is a short one, as make test has it: one journey through each part of the program, and
// whole screens looked at by axe. JOURNEYS=all has every journey walked there too.
func brief() bool { return testing.Short() && os.Getenv("JOURNEYS") != "all" }

// thorough leaves the journey out of a brief run: another one goes through the same part there.
func thorough(t *testing.T) {
	t.Helper()
	if brief() {
		t.Skip("walked by make test-long, and with JOURNEYS=all")
	}
}

// TestMain ends the browser and drops the filled database at the end.
func TestMain(m *testing.M) {
	code := m.Run()
	endChrome()
	if f, err := filled(); err == nil {
		if err := f.Drop(); err != nil {
			fmt.Fprintln(os.Stderr, "dropping the filled database:", err)
		}
	}
	os.Exit(code)
}

// app is the whole program on a database and a clock of its own, and a browser.
type app struct {
	t        testing.TB
	url      string
	store    *store.Store
	clock    *clockwork.FakeClock
	stepper  *engine.Engine // for living through time step by step, beside the one that runs
	lantern  *standin.Network
	outside  string                      // where the stand-ins are
	folders  string                      // below which posts are written to folders
	networks map[string]*standin.Network // by kind
	mailbox  *standin.Mailbox
	screens  *httptest.Server
	away     atomic.Bool                   // what stands before the program says that it does not answer
	gate     atomic.Pointer[chan struct{}] // what is sent to be saved waits until it is closed
	browser  context.Context
	profile  cdp.BrowserContextID // of the window, within the browser that all journeys share
}

// newApp starts the program with the demo world and a browser that shows nothing yet.
func newApp(t testing.TB) *app {
	t.Helper()
	if _, err := fs.Stat(web.Dist(), "index.html"); err != nil {
		t.Fatal("the screens are not built; run: make build")
	}
	return newAppOn(t, world(t).New(t))
}

// newAppOn starts the program on a database, and a browser that shows nothing yet.
func newAppOn(t testing.TB, s *store.Store) *app {
	t.Helper()
	a := &app{t: t, store: s, clock: clockwork.NewFakeClockAt(start), folders: t.TempDir()}
	log := slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelWarn}))
	ctx, stop := context.WithCancel(context.Background())
	changes := a.store.Changes(log)
	var running sync.WaitGroup
	queue, err := deliver.NewQueue(a.store)
	require.NoError(t, err)
	a.mailbox = standin.NewMailbox(a.clock)
	post, mails := a.mailbox.Server(), listen(t)
	go post.Serve(mails)
	t.Cleanup(func() { post.Close() })
	// The screens are reached at the server's address, which is not known yet.
	screens := httptest.NewUnstartedServer(nil)
	public := "http://" + screens.Listener.Addr().String()
	worker, err := deliver.NewWorker(ctx, deliver.Means{Store: a.store, Clock: a.clock, Post: deliver.PostOffice{Address: mails.Addr().String(), From: "almanac@dome.example", Public: public},
		Box: pgtest.Box, Allowed: reach.ParseAllowed("127.0.0.1"), Folders: a.folders, Log: log, Digest: digests.Writer{Store: a.store, Public: public}.Write})
	require.NoError(t, err)
	a.networks = make(map[string]*standin.Network)
	var networks []*standin.Network
	for _, n := range channel.All() {
		one, err := standin.New(n.Kind(), "", a.clock)
		require.NoError(t, err)
		one.Admit(demo.TokenOf(n.Kind()), demo.Handle)
		one.Rate = 0 // a busy machine hands a week over at one moment of the test's clock
		a.networks[n.Kind()] = one
		networks = append(networks, one)
	}
	a.lantern = a.networks[channel.Lantern]
	outside := httptest.NewServer(standin.Handler(networks, nil))
	t.Cleanup(outside.Close)
	a.outside = outside.URL
	for _, n := range channel.All() {
		require.NoError(t, a.store.MoveChannels(ctx, n.Kind(), channel.Addresses{Base: outside.URL}.Of(n.Kind())))
	}
	running.Add(3)
	go func() { defer running.Done(); worker.Run(ctx) }()
	go func() { defer running.Done(); changes.Run(ctx) }()
	outward := engine.Outward{Queue: queue, Public: public}
	a.stepper = engine.New(a.store, changes, a.clock, outward, log)
	go func() { defer running.Done(); engine.New(a.store, changes, a.clock, outward, log).Run(ctx) }()
	a.screens = screens
	screens.Config.Handler = a.reached(slowed(api.New(ctx, api.Config{
		Store: a.store, Changes: changes, Clock: a.clock, Log: log, Web: web.Dist(), Version: "test",
		Queue: queue, Mail: queue, Public: public, Box: pgtest.Box, Networks: channel.Addresses{Base: outside.URL}, Inside: reach.ParseAllowed("127.0.0.1"), Folders: a.folders,
	}).Handler()))
	screens.Start()
	a.url = screens.URL
	t.Cleanup(func() {
		stop()
		screens.CloseClientConnections()
		screens.Close()
		running.Wait()
	})
	a.openBrowser()
	return a
}

func listen(t testing.TB) net.Listener {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	return l
}

// chrome is the browser of all journeys, started once; each has a window with a profile of its own in it.
var chrome struct {
	sync.Mutex
	running context.Context
	end     func()
}

// endChrome ends the browser if it runs, or has died.
func endChrome() {
	if chrome.end != nil {
		chrome.end()
	}
	chrome.running, chrome.end = nil, nil
}

// openBrowser opens a window for this journey alone, in the site's zone and at 1280x800. Where the browser has died it
// is started again.
func (a *app) openBrowser() {
	a.t.Helper()
	const tries = 4
	for try := 1; ; try++ {
		window, profile, closeWindow, err := openWindow(a.t)
		if err == nil {
			a.t.Cleanup(closeWindow)
			a.browser, a.profile = window, profile
			break
		}
		closeWindow()
		a.t.Logf("Chromium did not start (try %d of %d): %.200v", try, tries, err)
		if try == tries {
			require.NoError(a.t, err)
		}
	}
	// Of several windows only one has the focus; each of these is used as if it had.
	a.do(emulation.SetFocusEmulationEnabled(true),
		emulation.SetTimezoneOverride("America/Halifax"), emulation.SetDeviceMetricsOverride(1280, 800, 1, false))
}

// openWindow opens a window with a profile of its own. closeWindow is never nil.
func openWindow(t testing.TB) (window context.Context, profile cdp.BrowserContextID, closeWindow func(), err error) {
	t.Helper()
	nothing := func() {}
	chrome.Lock()
	defer chrome.Unlock()
	if chrome.running == nil || chrome.running.Err() != nil {
		endChrome()
		if chrome.running, chrome.end, err = startBrowser(t); err != nil {
			endChrome()
			return nil, "", nothing, err
		}
	}
	var page target.ID
	browser := cdp.WithExecutor(chrome.running, chromedp.FromContext(chrome.running).Browser)
	if profile, err = target.CreateBrowserContext().Do(browser); err == nil {
		page, err = target.CreateTarget("about:blank").WithBrowserContextID(profile).WithNewWindow(true).Do(browser)
	}
	if err != nil {
		endChrome()
		return nil, "", nothing, err
	}
	opened, closeOpened := chromedp.NewContext(chrome.running, chromedp.WithTargetID(page))
	window, endWindow := context.WithTimeout(opened, 6*time.Minute)
	// It lives as long as the context of its first run. What chromedp has the browser tell of its own accord, to find
	// elements by their nodes, is work for every change of the page, and nothing here asks for it.
	err = chromedp.Run(window, css.Disable(), dom.Disable(), log.Disable())
	return window, profile, func() {
		endWindow()
		closeOpened()
		_ = target.DisposeBrowserContext(profile).Do(browser) // where the browser has died it is gone already
	}, err
}

// startBrowser starts Chromium. end ends it, and is never nil.
func startBrowser(t testing.TB) (running context.Context, end func(), err error) {
	t.Helper()
	profile, err := os.MkdirTemp("", "dapper-chromium-")
	require.NoError(t, err)
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromium(t)), chromedp.UserDataDir(profile), chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.WindowSize(1280, 800), chromedp.Flag("disable-sync", true), chromedp.Flag("disable-component-update",
			true),
		chromedp.Flag("disable-quic", true), chromedp.Flag("force-color-profile",
			"srgb"), chromedp.Flag("hide-scrollbars", true),
		// A page lives for seconds: less of it is worth the engine's best code, or a tidy memory.
		chromedp.Flag("js-flags", "--interrupt-budget=1000000 --max-semi-space-size=32"))
	allocator, endAllocator := chromedp.NewExecAllocator(context.Background(), options...)
	running, endRunning := chromedp.NewContext(allocator)
	err = chromedp.Run(running)
	return running, func() {
		soon, cancel := context.WithTimeout(running, 10*time.Second)
		defer cancel()
		_ = chromedp.Cancel(soon) // it ends by itself, with all its processes, unless it has died
		endRunning()
		endAllocator()
		os.RemoveAll(profile)
	}, err
}

// chromium is the browser's program. Debian's chromium-headless-shell is a script that starts it and waits: what ends the
// script leaves the browser running, so that its program is started itself.
func chromium(t testing.TB) string {
	for _, name := range []string{os.Getenv("CHROMIUM"), "/usr/lib/chromium/chromium-headless-shell",
		"chromium-headless-shell", "chromium", "chromium-browser"} {
		if path, err := exec.LookPath(name); name != "" && err == nil {
			return path
		}
	}
	t.Fatal("Chromium was not found; install it (apt-get install chromium-headless-shell, or chromium) or name it in CHROMIUM")
	return ""
}

// signIn signs in the first of the demo's people, and shows the Almanac, or the address. How it is done by hand stands in
// signInAs.
func (a *app) signIn(at ...string) {
	a.t.Helper()
	said, err := json.Marshal(map[string]string{"email": demo.People()[0].Email, "password": demo.Password})
	require.NoError(a.t, err)
	answer, err := http.Post(a.url+"/api/v1/session", "application/json", bytes.NewReader(said))
	require.NoError(a.t, err)
	defer answer.Body.Close()
	require.Equal(a.t, http.StatusOK, answer.StatusCode)
	for _, c := range answer.Cookies() {
		a.do(network.SetCookie(c.Name, c.Value).WithURL(a.url).WithHTTPOnly(true))
	}
	if len(at) > 0 {
		a.open(at[0])
		return
	}
	a.open("/")
	a.sees("Shelf")
}

// person is somebody of the demo, by name.
func (a *app) person(name string) (id int64) {
	a.t.Helper()
	require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &id, `select id from users where name = $1`, name))
	return id
}
