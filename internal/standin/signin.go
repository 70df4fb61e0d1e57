package standin

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io/fs"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"time"
)

// Account is somebody on a network, as a token knows them.
type Account struct {
	Handle  string    `json:"handle"`
	Ends    time.Time `json:"ends,omitzero"` // of the token; zero: never
	Refresh bool      `json:"refresh,omitempty"`
}

// accounts are the tokens of a network; those to refresh with, too.
type accounts struct {
	Tokens map[string]Account `json:"tokens"`
}

func (a *accounts) load(path string) error {
	raw, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	return json.Unmarshal(raw, a)
}

func (a *accounts) save(path string) error {
	raw, err := json.Marshal(a)
	if err != nil {
		return err
	}
	return os.WriteFile(path, raw, 0o600)
}

// lifetime is how long an access token is good.
const lifetime = time.Hour

// codeLifetime is how long a code is good.
const codeLifetime = time.Minute

// code is what somebody who allowed the program got, to be exchanged for tokens.
type code struct {
	handle, challenge, back, program string
	ends                             time.Time
}

// Admit lets a token in for good, as a handle.
func (n *Network) Admit(token, handle string) {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.accounts.Tokens[token] = Account{Handle: handle}
}

// Revoke ends all tokens of a handle.
func (n *Network) Revoke(handle string) {
	n.mu.Lock()
	defer n.mu.Unlock()
	for token, a := range n.accounts.Tokens {
		if a.Handle == handle {
			delete(n.accounts.Tokens, token)
		}
	}
}

// signedIn is who sends a request, by its bearer token (RFC 6750).
func (n *Network) signedIn(r *http.Request) (handle string, ok bool) {
	token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	if !ok || n.Weather() == Expired {
		return "", false
	}
	n.mu.Lock()
	defer n.mu.Unlock()
	a, ok := n.accounts.Tokens[token]
	if !ok || a.Refresh || !a.Ends.IsZero() && !n.clock.Now().Before(a.Ends) {
		return "", false
	}
	return a.Handle, true
}

func (n *Network) tellWho(w http.ResponseWriter, r *http.Request) {
	handle, ok := n.signedIn(r)
	if !ok {
		refuse(w, http.StatusUnauthorized, "This sign-in is not valid any more. Sign in again.")
		return
	}
	answer(w, http.StatusOK, map[string]string{"handle": handle})
}

// asked is what a program asks a person for.
type asked struct {
	Network, Program, Back, State, Challenge string
	Handles                                  []string
	Problem                                  string
}

// askedOf reads what is asked; ok is false where it is not in order. Only programs on this machine may be led
// back to: this is a stand-in.
func (n *Network) askedOf(q url.Values) (a asked, ok bool) {
	a = asked{Network: n.network.Name(), Program: q.Get("client_id"), Back: q.Get("redirect_uri"), State: q.Get("state"),
		Challenge: q.Get("code_challenge")}
	back, err := url.Parse(a.Back)
	return a, err == nil && a.Program != "" && a.Challenge != "" && q.Get("code_challenge_method") == "S256" &&
		q.Get("response_type") == "code" && (back.Scheme == "http" || back.Scheme == "https") && back.Host != ""
}

// askPerson shows the page on which a person allows a program to post in their name.
func (n *Network) askPerson(w http.ResponseWriter, r *http.Request) {
	a, ok := n.askedOf(r.URL.Query())
	if !ok {
		http.Error(w, "This is no complete request to sign in (RFC 6749, with PKCE).", http.StatusBadRequest)
		return
	}
	n.mu.Lock()
	for _, one := range n.accounts.Tokens {
		if !slices.Contains(a.Handles, one.Handle) {
			a.Handles = append(a.Handles, one.Handle)
		}
	}
	n.mu.Unlock()
	slices.Sort(a.Handles)
	n.show(w, "signin.html", a)
}

var handles = regexp.MustCompile(`^[a-z0-9][a-z0-9._-]{0,29}$`)

// hearPerson sends the person back to the program, with a code or with their no.
func (n *Network) hearPerson(w http.ResponseWriter, r *http.Request) {
	a, ok := n.askedOf(r.URL.Query())
	if !ok {
		http.Error(w, "This is no complete request to sign in.", http.StatusBadRequest)
		return
	}
	back, _ := url.Parse(a.Back)
	q := back.Query()
	q.Set("state", a.State)
	if r.PostFormValue("answer") != "allow" {
		q.Set("error", "access_denied")
		back.RawQuery = q.Encode()
		http.Redirect(w, r, back.String(), http.StatusSeeOther)
		return
	}
	handle := strings.TrimPrefix(strings.ToLower(strings.TrimSpace(r.PostFormValue("handle"))), "@")
	if !handles.MatchString(handle) {
		a.Problem = "A name has 1 to 30 small letters, digits, dots and hyphens."
		n.show(w, "signin.html", a)
		return
	}
	given := token()
	n.mu.Lock()
	n.codes[given] = code{handle, a.Challenge, a.Back, a.Program, n.clock.Now().Add(codeLifetime)}
	n.mu.Unlock()
	q.Set("code", given)
	back.RawQuery = q.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

// giveTokens exchanges a code, or a token to refresh with, for tokens (RFC 6749, sections 4.1.3 and 6).
func (n *Network) giveTokens(w http.ResponseWriter, r *http.Request) {
	n.mu.Lock()
	defer n.mu.Unlock()
	handle, ok := "", false
	switch r.PostFormValue("grant_type") {
	case "authorization_code":
		given := r.PostFormValue("code")
		c, known := n.codes[given]
		delete(n.codes, given)
		sum := sha256.Sum256([]byte(r.PostFormValue("code_verifier")))
		proof := base64.RawURLEncoding.EncodeToString(sum[:])
		ok = known && n.clock.Now().Before(c.ends) && subtle.ConstantTimeCompare([]byte(proof), []byte(c.challenge)) == 1 &&
			c.back == r.PostFormValue("redirect_uri") && c.program == r.PostFormValue("client_id")
		handle = c.handle
	case "refresh_token":
		a, known := n.accounts.Tokens[r.PostFormValue("refresh_token")]
		if ok = known && a.Refresh && n.weather != Expired; ok {
			delete(n.accounts.Tokens, r.PostFormValue("refresh_token"))
		}
		handle = a.Handle
	}
	w.Header().Set("Cache-Control", "no-store")
	if !ok {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_grant",
			"error_description": "This sign-in is not valid any more. Sign in again."})
		return
	}
	access, refresh := token(), token()
	n.accounts.Tokens[access] = Account{Handle: handle, Ends: n.clock.Now().Add(lifetime)}
	n.accounts.Tokens[refresh] = Account{Handle: handle, Refresh: true}
	if n.dir != "" {
		if err := n.accounts.save(n.kept("accounts.json")); err != nil {
			refuse(w, http.StatusInternalServerError, "The tokens could not be kept.")
			return
		}
	}
	answer(w, http.StatusOK, map[string]any{"access_token": access, "token_type": "Bearer", "expires_in": int(lifetime.Seconds()),
		"refresh_token": refresh})
}

func token() string {
	var b [16]byte
	rand.Read(b[:])
	return hex.EncodeToString(b[:])
}
