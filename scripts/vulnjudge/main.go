// Command vulnjudge reads govulncheck's JSON and says what it means for this program.
//
// With -packages it reads a scan that tells only which packages are imported, which takes seconds instead of minutes. Where
// that scan is not enough to let the program pass, it ends with 3, and a scan of what is called has to follow.
//
// A known vulnerability that the program calls fails: in a module a newer version can be
// pinned, and in Go's standard library go.mod can name a newer toolchain. Only where the
// machine has an older Go than go.mod names, and cannot get that one, those of the standard
// library are counted and said and do not fail.
package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"slices"
)

// standardLibrary is the module path that govulncheck gives Go's own packages.
const standardLibrary = "stdlib"

// message is one of govulncheck's JSON messages, as far as it is read here.
type message struct {
	Config *struct {
		GoVersion string `json:"go_version"`
	}
	OSV *struct {
		ID      string
		Summary string
	}
	Finding *struct {
		OSV          string
		FixedVersion string `json:"fixed_version"`
		Trace        []struct {
			Module, Version, Package, Function string
		}
	}
}

// verdict is what was found, by the vulnerability's id.
type verdict struct {
	Called   map[string]string // in modules, and the program calls it
	Uncalled map[string]string // in modules, not called
	Standard map[string]string // in the standard library, called
}

// judge reads the messages; in a scan of packages, what is imported counts as called. An empty answer is an error:
// nothing was checked then.
func judge(r io.Reader, packages bool) (verdict, error) {
	v := verdict{map[string]string{}, map[string]string{}, map[string]string{}}
	summary := map[string]string{}
	configured := false
	for in := json.NewDecoder(r); ; {
		var m message
		err := in.Decode(&m)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return v, fmt.Errorf("what govulncheck wrote cannot be read: %w", err)
		}
		configured = configured || m.Config != nil
		if m.OSV != nil {
			summary[m.OSV.ID] = m.OSV.Summary
		}
		if m.Finding == nil || len(m.Finding.Trace) == 0 {
			continue
		}
		f := m.Finding
		at := f.Trace[0] // the vulnerable end of the trace
		line := fmt.Sprintf("%s %s@%s: %s (mended in %s)", f.OSV, at.Module, at.Version, summary[f.OSV], orNone(f.FixedVersion))
		called := at.Function != "" || packages && at.Package != ""
		switch {
		case called && at.Module == standardLibrary:
			v.Standard[f.OSV] = line
		case called:
			v.Called[f.OSV] = line
		case at.Module != standardLibrary:
			v.Uncalled[f.OSV] = line
		}
	}
	for id := range v.Called {
		delete(v.Uncalled, id)
	}
	if !configured {
		return v, errors.New("govulncheck wrote nothing; nothing was checked")
	}
	return v, nil
}

func orNone(version string) string {
	if version == "" {
		return "no version yet"
	}
	return version
}

// fails tells whether something is to be mended here. The standard library counts where it is
// that of the toolchain that go.mod names, or of a newer one.
func (v verdict) fails(asNamed bool) bool {
	return len(v.Called) > 0 || asNamed && len(v.Standard) > 0
}

func main() {
	asNamed := flag.String("as-named", "yes", "whether the Go that builds is at least the one that go.mod names: yes or no")
	packages := flag.Bool("packages", false, "whether the scan was one of packages only")
	flag.Parse()
	v, err := judge(os.Stdin, *packages)
	if err != nil {
		fmt.Fprintln(os.Stderr, "vulnjudge:", err)
		os.Exit(2)
	}
	const unclear = 3
	if *packages && v.fails(*asNamed == "yes") {
		os.Exit(unclear)
	}
	called := "called"
	if *packages {
		called = "imported"
	}
	say(fmt.Sprintf("In Go's standard library, and %s (%d); name a newer toolchain in go.mod:", called, len(v.Standard)), v.Standard)
	say("In modules, but never "+called+":", v.Uncalled)
	say("In modules, and called; pin a version that is mended:", v.Called)
	if v.fails(*asNamed == "yes") {
		os.Exit(1)
	}
	if len(v.Standard) > 0 {
		fmt.Printf("%d known vulnerabilities are %s in this machine's Go, which is older than go.mod names.\n", len(v.Standard), called)
		return
	}
	fmt.Printf("No known vulnerability is %s.\n", called)
}

func say(title string, lines map[string]string) {
	if len(lines) == 0 {
		return
	}
	fmt.Println(title)
	ids := make([]string, 0, len(lines))
	for id := range lines {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	for _, id := range ids {
		fmt.Println("  " + lines[id])
	}
}
