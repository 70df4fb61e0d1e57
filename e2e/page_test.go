package e2e

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// What a journey waits for is asked of the page by one script at a time, which looks at
// the page as it is at one moment. To fetch nodes and ask about each of them goes wrong
// on a page that is drawn anew meanwhile.

// patience is how long a step of a journey may take before something is wrong.
const patience = 60 * time.Second

// pause is how long the page is left alone between two questions.
const pause = 25 * time.Millisecond

// looking is what the scripts below share: the elements a selector finds (XPath where it
// begins with / or a bracket, else CSS), and whether one is seen. within asks of the innermost elements
// whose text fits whether one is seen: a path of XPath would put the text of the whole page together for
// each of the elements around it.
const looking = `
const found = (selector) => {
  if (!/^[(/]/.test(selector)) return [...document.querySelectorAll(selector)];
  const all = document.evaluate(selector, document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
  return Array.from({ length: all.snapshotLength }, (_, i) => all.snapshotItem(i));
};
const seen = (e) => e.checkVisibility({ visibilityProperty: true }) && e.getClientRects().length > 0;
const enabled = (e) => !e.closest(":disabled, [aria-disabled=true]");
const frame = () => new Promise((done) => requestAnimationFrame(done));
const words = (e) => e.textContent.replace(/\s+/g, " ").trim();
const within = (e, fits) => {
  const inside = [...e.children].filter((c) => c.localName !== "script" && fits(words(c)));
  return inside.length ? inside.some((c) => within(c, fits)) : e !== document.body && seen(e);
};
`

// ask runs the body of an async function in the page, with looking before it.
func ask[T any](ctx context.Context, body string) (T, error) {
	var answer T
	err := chromedp.Evaluate("(async () => {"+looking+body+"})()", &answer,
		func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }).Do(ctx)
	return answer, err
}

// until asks until the answer is not empty. A page that is on its way to another answers
// with an error, and is asked again.
func until[T comparable](ctx context.Context, what, body string) (T, error) {
	var nothing T
	for {
		answer, err := ask[T](ctx, body)
		if err == nil && answer != nothing {
			return answer, nil
		}
		select {
		case <-ctx.Done():
			return nothing, fmt.Errorf("%s: %w", what, errors.Join(ctx.Err(), err))
		case <-time.After(pause):
		}
	}
}

// answers waits until an expression is true.
func answers(what, expression string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := until[bool](ctx, what, "return "+expression+";")
		return err
	})
}

func holds(what, selector, body string) chromedp.Action {
	return answers(what+" "+selector, fmt.Sprintf("((all) => %s)(found(%q))", body, selector))
}

// shown waits until one of what the selector finds is seen, wherever it is scrolled to.
func shown(selector string) chromedp.Action {
	return holds("to be seen:", selector, "all.some(seen)")
}

// there waits until the selector finds something, seen or not.
func there(selector string) chromedp.Action {
	return holds("to be there:", selector, "all.length > 0")
}

// enabled waits until one of what the selector finds is seen and can be used.
func enabled(selector string) chromedp.Action {
	return holds("to be enabled:", selector, "all.some((e) => seen(e) && enabled(e))")
}

// gone waits until the selector finds nothing.
func gone(selector string) chromedp.Action {
	return holds("to be gone:", selector, "all.length === 0")
}

// focused puts the focus on the first of what the selector finds that is seen and can be used.
func focused(selector string) chromedp.Action {
	return holds("to take the focus:", selector,
		"((e) => { e?.focus(); return !!e && e.contains(document.activeElement); })(all.find((e) => seen(e) && enabled(e)))")
}

// pressed clicks the first of what the selector finds that is seen and can be used, once
// it stands still and nothing lies over it. Where it moves away at the last moment the
// click is kept from whatever has come there, and tried again.
func pressed(selector string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		for {
			missed, err := press(ctx, selector)
			if err != nil || !missed {
				return err
			}
		}
	})
}

func press(ctx context.Context, selector string) (missed bool, err error) {
	at, err := until[[2]float64](ctx, "to be pressed: "+selector, fmt.Sprintf(`
		const e = found(%q).find((e) => seen(e) && enabled(e));
		if (!e) return [0, 0];
		e.scrollIntoViewIfNeeded();
		const where = () => { const r = e.getClientRects()[0]; return r && [r.x + r.width / 2, r.y + r.height / 2]; };
		const first = where();
		await frame(); await frame();
		const second = where();
		if (!first || !second || first[0] !== second[0] || first[1] !== second[1]) return [0, 0];
		const touches = (at) => at && (e.contains(at) || at.closest("a, button, label, [role=option], [role=menuitem]")?.contains(e));
		if (!touches(document.elementFromPoint(...second))) return [0, 0];
		if (!window.aim) for (const type of ["pointerdown", "mousedown", "pointerup", "mouseup", "click"])
			window.addEventListener(type, (event) => {
				if (type === "pointerdown") window.aim.missed = !window.aim.touches(event.target);
				// What moves away between press and release gets no click: what lies around both does.
				if (type === "click" && !window.aim.clicked) {
					window.aim.clicked = true;
					window.aim.missed ||= !window.aim.touches(event.target);
				}
				if (!window.aim.missed) return;
				event.stopImmediatePropagation();
				event.preventDefault();
			}, { capture: true });
		window.aim = { touches, missed: true }; // until the pointer has come down on it
		return second;`, selector))
	if err != nil {
		return false, err
	}
	if err := chromedp.MouseClickXY(at[0], at[1]).Do(ctx); err != nil {
		return false, err
	}
	// Other clicks are not aimed. A page that went to another has been hit.
	missed, err = ask[bool](ctx,
		`const { missed } = window.aim ?? { missed: false }; if (window.aim) window.aim = { touches: () => true }; return missed;`)
	return err == nil && missed, nil
}

// property reads a property of the first of what the selector finds, once it is not empty.
func property(selector, name string, into *string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) (err error) {
		*into, err = until[string](ctx, name+" of "+selector, fmt.Sprintf("return found(%q)[0]?.[%q] ?? '';", selector,
			name))
		return err
	})
}

// keyed presses the keys that a text is typed with, each as a keyboard does it: a page that keeps a key for itself as it
// goes down gets no letter of it, which chromedp.KeyEvent sends all the same.
func keyed(text string, with ...input.Modifier) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		for _, r := range text {
			for _, k := range kb.Encode(r) {
				if k.Type == input.KeyDown {
					k.Type = input.KeyRawDown
				}
				for _, m := range with {
					k.Modifiers |= m
				}
				if err := k.Do(ctx); err != nil {
					return fmt.Errorf("typing %q: %w", text, err)
				}
			}
		}
		return nil
	})
}

// words are runs of letters and spaces, in which no key does anything but write.
var words = regexp.MustCompile(`[A-Za-z ]{6,}`)

// typing writes a text where the focus is. Long runs of words come as a dictation or an input method writes them, all but
// their first and last letters at once: the page is drawn anew for each letter.
func typing(text string) chromedp.Action {
	var tasks chromedp.Tasks
	rest := 0
	for _, run := range words.FindAllStringIndex(text, -1) {
		from, to := run[0]+2, run[1]-2
		tasks = append(tasks, keyed(text[rest:from]), input.InsertText(text[from:to]))
		rest = to
	}
	return append(tasks, keyed(text[rest:]))
}

// uploads chooses files for the field that the selector finds.
func uploads(selector string, files ...string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		if err := there(selector).Do(ctx); err != nil {
			return err
		}
		field, failed, err := runtime.Evaluate("(() => {" + looking + fmt.Sprintf("return found(%q)[0]; })()", selector)).Do(ctx)
		if err == nil && failed != nil {
			err = failed
		}
		if err != nil {
			return fmt.Errorf("choosing files for %s: %w", selector, err)
		}
		return dom.SetFileInputFiles(files).WithObjectID(field.ObjectID).Do(ctx)
	})
}

// do runs browser actions; when one fails, the page as it is then is said.
func (a *app) do(actions ...chromedp.Action) {
	a.t.Helper()
	ctx, cancel := context.WithTimeout(a.browser, patience)
	defer cancel()
	if err := chromedp.Run(ctx, actions...); err != nil {
		var text string
		more, cancel := context.WithTimeout(a.browser, 5*time.Second)
		defer cancel()
		_ = chromedp.Run(more, chromedp.Evaluate(`document.body.innerText`, &text))
		a.t.Fatalf("%v\nthe page shows:\n%s", err, text)
	}
}

// open shows an address of the program.
func (a *app) open(path string) { a.t.Helper(); a.do(chromedp.Navigate(a.url + path)) }

// goes shows another screen as a link to it does, without a new document, and waits until the one before has made way.
func (a *app) goes(path string) {
	a.t.Helper()
	const heading = `document.querySelector("h1")`
	a.do(chromedp.Evaluate(fmt.Sprintf(`window.left = %s; window.headed = left?.textContent;
		history.pushState(null, "", %q); dispatchEvent(new PopStateEvent("popstate")); true`, heading, path), nil),
		answers("to make way for "+path, "((now) => !!now && (now !== window.left || now.textContent !== window.headed))("+heading+")"))
}

// sees waits until the page shows the text.
func (a *app) sees(text string) {
	a.t.Helper()
	a.do(answers("to be seen: "+text, fmt.Sprintf("within(document.body, (said) => said.includes(%q))", text)))
}

// reads waits until some element's whole text is this.
func (a *app) reads(text string) {
	a.t.Helper()
	a.do(answers("to be read: "+text, fmt.Sprintf("words(document.body).includes(%[1]q) && found(%[2]q).some(seen)", text,
		fmt.Sprintf(`//body//*[normalize-space(.)=%s]`, quoted(text)))))
}

// click clicks the button or link with the accessible name or text.
func (a *app) click(name string) {
	a.t.Helper()
	a.press(control(name))
}

// latestUndo is the button that takes back what the latest notice tells of.
const latestUndo = `(//*[contains(@class, "toasts")]//button[normalize-space(.)="Undo"])[1]`

// undoesLatest takes back what the latest notice tells of.
func (a *app) undoesLatest() {
	a.t.Helper()
	a.press(latestUndo)
	a.sees("Undone.")
}

// press clicks what a selector finds, once it is seen, still and not disabled.
func (a *app) press(selector string) {
	a.t.Helper()
	a.do(pressed(selector))
}

// control finds a button, link, option or menu item by its label or its whole text.
func control(name string) string {
	n := quoted(name)
	return fmt.Sprintf(`//*[self::button or self::a or @role="option" or @role="menuitem"][@aria-label=%s or normalize-space(.)=%s]`, n, n)
}

// field finds an input by its label.
func field(label string) string {
	n := quoted(label)
	return fmt.Sprintf(`//*[self::input or self::textarea or @role='textbox'][@aria-label=%s or @id=//label[normalize-space(.)=%s]/@for]`, n, n)
}

// fill types into the field with the label, after what is there.
func (a *app) fill(label, text string) {
	a.t.Helper()
	a.typed(field(label), text)
}

// typed types into what the selector finds.
func (a *app) typed(selector, text string) {
	a.t.Helper()
	a.do(focused(selector), typing(text))
}

// refill replaces what is in the field with the label.
func (a *app) refill(label, text string) {
	a.t.Helper()
	// A date that has the focus is at one of its parts: the focus comes anew, to the first.
	a.do(chromedp.Evaluate(`document.activeElement?.blur()`, nil), focused(field(label)),
		chromedp.Evaluate(`document.activeElement.select()`, nil), typing(text))
}

// paste replaces what is in the field with the label by a text that comes at once, as from the clipboard.
func (a *app) paste(label, text string) {
	a.t.Helper()
	a.do(focused(field(label)), chromedp.Evaluate(`document.activeElement.select()`, nil), input.InsertText(text))
}

func quoted(text string) string {
	if strings.Contains(text, `"`) {
		return "'" + text + "'"
	}
	return `"` + text + `"`
}
