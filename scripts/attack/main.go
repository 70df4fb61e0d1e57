// Command attack sends a running program what costs far more than it weighs, and says after
// each attack whether the program still answers and how much memory it holds. It fails where
// the program dies, answers with a fault of its own, or leaves an attack unanswered.
//
//	attack URL PID
//
// The program has the demo world; PID is its process.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"dapper.example/internal/demo"
	"dapper.example/internal/hostile"
)

// longest is how long any one request may take: the program ends its own work at 30 s.
const longest = 40 * time.Second

type attacker struct {
	url, pid string
	http     *http.Client
	faults   int
	codes    map[int]int
	mu       sync.Mutex
}

const site = "/api/v1/sites/" + demo.SiteSlug

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "attack URL PID")
		os.Exit(2)
	}
	jar, _ := cookiejar.New(nil)
	a := &attacker{url: os.Args[1], pid: os.Args[2], http: &http.Client{Jar: jar, Timeout: longest}, codes: map[int]int{}}
	for range 300 {
		if a.healthy() {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	a.strangers()
	a.signIn()
	a.writers()
	a.signIn()
	if a.faults > 0 {
		fmt.Printf("%d faults\n", a.faults)
		os.Exit(1)
	}
	fmt.Println("It held.")
}

// strangers are attacks of people who are not signed in.
func (a *attacker) strangers() {
	unknown := func(kilobytes int) []byte {
		var b bytes.Buffer
		b.WriteByte('{')
		for i := 0; b.Len() < kilobytes<<10; i++ {
			fmt.Fprintf(&b, `"k%d":%d,`, i, i)
		}
		b.WriteString(`"z":0}`)
		return b.Bytes()
	}
	for _, kilobytes := range []int{49, 89, 890, 8900} {
		body := unknown(kilobytes)
		a.run(fmt.Sprintf("20 bodies of %d kB with unknown keys", kilobytes), 20, func(int) { a.send("POST", "/api/v1/session", "application/json", body) })
	}
	deep := bytes.Repeat([]byte("["), 8<<20)
	a.run("20 bodies that are 8 million deep", 20, func(int) { a.send("POST", "/api/v1/session", "application/json", deep) })
	for _, n := range []int{12, 120, 1200} {
		a.run(fmt.Sprintf("%d sign-ins at once", n), n, func(i int) {
			a.send("POST", "/api/v1/session", "application/json", asJSON(map[string]string{"email": fmt.Sprintf("nobody-%d@example.org", i), "password": "correct horse"}))
		})
	}
	a.run("200 readers that do not read", 200, func(int) {
		conn, err := net.Dial("tcp", strings.TrimPrefix(a.url, "http://"))
		if err != nil {
			return
		}
		go func() {
			time.Sleep(15 * time.Second)
			conn.Close()
		}()
		for range 50 {
			fmt.Fprintf(conn, "GET /blog/%s/feed.xml HTTP/1.1\r\nHost: x\r\n\r\n", demo.SiteSlug)
		}
	})
	a.run("strange addresses", 1, func(int) {
		for _, text := range []string{"%00", "%ff%fe", strings.Repeat("-", 33), strings.Repeat("a", 7000), "..%2f..%2f"} {
			a.send("GET", "/blog/"+demo.SiteSlug+"/search?q="+text, "", nil)
			a.send("GET", "/blog/"+demo.SiteSlug+"/tag/"+text, "", nil)
		}
	})
}

// writers are attacks of a contributor, and of an owner where only one may.
func (a *attacker) writers() {
	pictures := map[string][]byte{
		"notes that run in a circle":        hostile.Circle(hostile.Photo(80, 40)),
		"a progressive JPEG of 1,000 scans": hostile.Scans(4000, 3000, 1000),
		"a photograph of 48 megapixels":     hostile.Photo(8000, 6000),
		"a flat PNG of 196 megapixels":      hostile.Flat(14000, 14000),
		"a flat PNG of 49 megapixels":       hostile.Flat(7000, 7000),
		"no picture":                        []byte("GIF89a"),
	}
	for _, name := range slices.Sorted(maps.Keys(pictures)) {
		form, kind := formOf(pictures[name])
		a.run("6 times "+name, 6, func(int) { a.send("POST", site+"/pictures", kind, form) })
	}
	a.run("a form of 300 MB", 2, func(int) {
		in, out := io.Pipe()
		go func() {
			form := multipart.NewWriter(out)
			part, err := form.CreateFormFile("file", "a.jpg")
			for range 300 {
				if err == nil {
					_, err = part.Write(make([]byte, 1<<20))
				}
			}
			out.CloseWithError(err)
		}()
		a.stream("POST", site+"/pictures", "multipart/form-data; boundary=none", in)
	})
	for _, size := range []int{16 << 10, 128 << 10, 1 << 20} {
		for _, name := range slices.Sorted(maps.Keys(hostile.Texts)) {
			text := hostile.Texts[name](size)
			a.run(fmt.Sprintf("%d kB of %s", size>>10, name), 2, func(i int) {
				if i == 0 {
					a.send("POST", site+"/render", "application/json", asJSON(map[string]string{"body": text}))
				} else {
					a.send("POST", site+"/posts", "application/json", asJSON(map[string]string{"title": name, "body": text}))
				}
			})
		}
	}
	heavy := []string{"closed tags", "lists", "tabs", "one big word", "task lists"}
	a.run("30 texts of 1 MB at once", 30, func(i int) {
		a.send("POST", site+"/render", "application/json", asJSON(map[string]string{"body": hostile.Texts[heavy[i%len(heavy)]](1 << 20)}))
	})
	for _, from := range []string{"9999-12-31", "2326-01-01", "0001-01-01"} {
		a.run("marks from "+from, 10, func(int) { a.send("GET", site+"/marks?from="+from+"&to="+from, "", nil) })
	}
	var openings []map[string]any
	for i := range 50 {
		openings = append(openings, map[string]any{"key": fmt.Sprint("o", i), "kind": "window", "from": "00:00", "to": "24:00", "count": 24,
			"weekdays": []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"}})
	}
	a.run("what if of 50 openings of 24 over 104 weeks", 3, func(int) {
		a.send("POST", site+"/rhythm/what-if", "application/json", asJSON(map[string]any{"weeks": 104, "rhythm": map[string]any{"name": "x", "gap": 1, "seed": 1, "version": 1, "openings": openings}}))
	})
	calendars := map[string]string{
		"2,000 yearly events":  strings.Repeat("BEGIN:VEVENT\r\nSUMMARY:X\r\nDTSTART;VALUE=DATE:20000101\r\nRRULE:FREQ=YEARLY\r\nEND:VEVENT\r\n", 2000),
		"800 kB of parameters": "BEGIN:VEVENT\r\nDTSTART" + strings.Repeat(";X=1", 200_000) + ":20261224\r\nEND:VEVENT\r\n",
		"a million folds":      "BEGIN:VEVENT\r\nSUMMARY:" + strings.Repeat("a\r\n ", 250_000) + "\r\nEND:VEVENT\r\n",
	}
	for _, name := range slices.Sorted(maps.Keys(calendars)) {
		body := asJSON(map[string]string{"calendar": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + calendars[name] + "END:VCALENDAR\r\n"})
		a.run("a calendar of "+name, 3, func(int) { a.send("POST", site+"/rests/read", "application/json", body) })
	}
	long := strings.Repeat("e\u0301", 150_000)
	a.run("names of 450 kB and one letter with 2,000 marks", 3, func(int) {
		a.send("POST", site+"/posts", "application/json", asJSON(map[string]any{"title": long, "body": "x"}))
		a.send("POST", site+"/posts", "application/json", asJSON(map[string]any{"title": "e" + strings.Repeat("\u0301", 2000), "body": "x"}))
		a.send("GET", site+"/posts?text="+url.QueryEscape(strings.Repeat("-", 33)), "", nil)
	})
	a.run("20 almanacs", 20, func(int) { a.send("GET", site+"/almanac?days=28", "", nil) })
}

// run does an attack so many times at once, and looks at what it left.
func (a *attacker) run(name string, times int, attack func(i int)) {
	a.codes = map[int]int{}
	started := time.Now()
	var all sync.WaitGroup
	for i := range times {
		all.Go(func() { attack(i) })
	}
	all.Wait()
	took := time.Since(started)
	fmt.Printf("%-52s %6.2f s  %4d MB  %v\n", name, took.Seconds(), a.resident(), a.codes)
	if !a.healthy() {
		a.faults++
		fmt.Println("  it does not answer any more")
		if a.resident() == 0 {
			fmt.Println("  it is dead")
			os.Exit(1)
		}
	}
	for code := range a.codes {
		if code == 0 || code >= 500 && code != http.StatusServiceUnavailable {
			a.faults++
			fmt.Printf("  %d\n", code)
		}
	}
}

func (a *attacker) send(method, path, kind string, body []byte) {
	a.stream(method, path, kind, bytes.NewReader(body))
}

// stream asks, and notes the answer's status: 0 where there is none. A connection that is
// closed on a body that is too large is an answer too.
func (a *attacker) stream(method, path, kind string, body io.Reader) {
	request, err := http.NewRequestWithContext(context.Background(), method, a.url+path, body)
	if err != nil {
		return // an address that no browser sends either
	}
	if kind != "" {
		request.Header.Set("Content-Type", kind)
	}
	code := 0
	answer, err := a.http.Do(request)
	switch {
	case err == nil:
		io.Copy(io.Discard, answer.Body)
		answer.Body.Close()
		code = answer.StatusCode
	case strings.Contains(err.Error(), "connection reset") || strings.Contains(err.Error(), "broken pipe"):
		code = http.StatusRequestEntityTooLarge
	default:
		fmt.Println(" ", err)
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.codes[code]++
}

// signIn signs the owner in; it must work whatever came before, if not at once.
func (a *attacker) signIn() {
	for range 20 {
		answer, err := a.http.Post(a.url+"/api/v1/session", "application/json", bytes.NewReader(asJSON(map[string]string{"email": demo.People()[0].Email, "password": demo.Password})))
		if err == nil {
			answer.Body.Close()
			if answer.StatusCode == http.StatusOK {
				return
			}
		}
		<-time.After(time.Second)
	}
	a.faults++
	fmt.Println("the owner cannot sign in")
}

func (a *attacker) healthy() bool {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, a.url+"/healthz", nil)
	if err != nil {
		return false
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return false
	}
	answer.Body.Close()
	return answer.StatusCode == http.StatusOK
}

// resident is how many megabytes the program holds; 0 where it is gone.
func (a *attacker) resident() (megabytes int) {
	status, err := os.ReadFile(filepath.Join("/proc", a.pid, "status"))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(status)) {
		var kilobytes int
		if n, _ := fmt.Sscanf(line, "VmRSS: %d kB", &kilobytes); n == 1 {
			return kilobytes >> 10
		}
	}
	return 0
}

func formOf(file []byte) (body []byte, kind string) {
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	part, _ := form.CreateFormFile("file", "a.jpg") // a buffer takes all
	part.Write(file)
	form.WriteField("alt", "A picture")
	form.Close()
	return b.Bytes(), form.FormDataContentType()
}

func asJSON(v any) []byte {
	text, err := json.Marshal(v)
	if err != nil {
		panic(err) // maps of texts and numbers
	}
	return text
}
