package operation

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/act"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// Access says who may use an operation: somebody with at least this role on the site of
// the address, or with a token that has the scope.
type Access struct {
	// Role is the least role; "" where anybody may, signed in or not, and anyPerson
	// where whoever is signed in may.
	Role people.Role
	// Scope is what a token must have; with "" no token will do.
	Scope people.Scope
	// Others is the least role where the thing was made by somebody else: a post by its
	// author, a link, a picture or a token by whoever made it. "" is Role: it makes no
	// difference who made it.
	Others people.Role
}

// anyPerson is the role of somebody who is signed in, on no site in particular.
const anyPerson people.Role = "person"

// OwnsABlog is the role of somebody who is an owner of any site, or of whoever is signed in
// while there is no site: whoever deletes the last one is not left outside.
const OwnsABlog people.Role = "owner of a blog"

var (
	openToAll   = Access{}
	onesOwn     = Access{Role: anyPerson}
	onlooker    = Access{Role: people.Contributor, Scope: people.Read}
	writer      = Access{Role: people.Contributor, Scope: people.Write}
	ownWork     = Access{Role: people.Contributor, Scope: people.Write, Others: people.Editor}
	planner     = Access{Role: people.Editor, Scope: people.Plan}
	editsPosts  = Access{Role: people.Editor, Scope: people.Write}
	memberSelf  = Access{Role: people.Contributor} // never with a token
	editorSelf  = Access{Role: people.Editor}
	ownerOfSite = Access{Role: people.Owner}
	ownerOfAny  = Access{Role: OwnsABlog}
)

// accessTo holds who may use each operation. One that is not in it cannot be
// registered: Operations panics.
var accessTo = map[string]Access{
	"sign-in": openToAll, "sign-out": openToAll, "ask-password-reset": openToAll, "reset-password": openToAll,
	"look-at-invitation": openToAll, "accept-invitation": openToAll,
	"end-digest": openToAll, "resume-digest": openToAll, "check-setup-code": openToAll, "set-up": openToAll, "pull-import-trigger": openToAll, "begin-blog": openToAll, "settle-signed": openToAll,

	"get-session": onesOwn, "finish-connection": onesOwn, "save-account": onesOwn, "save-preferences": onesOwn, "change-password": onesOwn,
	"report-failure": onesOwn, "find-in-guide": onesOwn, "get-guide-page": onesOwn, "add-blog": ownerOfAny, "list-sign-ins": onesOwn, "end-sign-in": onesOwn, "end-other-sign-ins": onesOwn,

	"get-almanac": onlooker, "get-status": onlooker, "get-placement": onlooker, "get-closing": onlooker,
	"get-marks": onlooker, "watch-site": onlooker,
	"get-blog": onlooker, "list-tags": onlooker, "get-appearance": onlooker, "list-comments": onlooker, "get-commenting": onlooker, "get-shades": onlooker, "list-categories": onlooker, "list-topics": onlooker, "list-posts": onlooker, "table-of-posts": onlooker, "table-of-the-plan": onlooker, "export-plan": onlooker, "list-unready": onlooker,
	"count-posts": onlooker, "find-titles": onlooker, "list-pictures": onlooker, "get-picture": onlooker, "render-text": onlooker,
	"list-previews": onlooker, "get-post": onlooker, "list-remarks": onlooker, "get-post-log": onlooker,
	"get-rhythm": onlooker, "begin-opening": onlooker, "begin-season": onlooker, "list-seasons": onlooker,
	"preview-season": onlooker, "compare-rhythms": onlooker, "preview-rhythm": onlooker, "get-settings": onlooker,
	"get-overdue": onlooker, "get-zone-change": onlooker, "get-logbook": onlooker,
	"get-forecast": onlooker, "follow-forecast": onlooker, "compare-forecast": onlooker,
	"list-rules": onlooker, "preview-rule": onlooker, "explain-rule": onlooker, "list-runs": onlooker,
	"list-texts": onlooker, "compare-texts": onlooker, "restore-text": editsPosts, "name-text": editsPosts, "list-edits": onlooker, "list-edits-of-post": onlooker, "get-edit": onlooker, "prepare-edit": planner, "save-edit": planner, "retime-edit": planner, "apply-edit": planner, "settle-edit": planner, "drop-edit": planner, "get-text": onlooker, "list-outings": onlooker, "list-prepared": onlooker, "read-prepared": planner, "preview-outing": onlooker, "compose-message": onlooker, "list-channels": onlooker, "get-channel-deletion": onlooker, "get-post-announcements": onlooker,
	"list-people": onlooker,

	"begin-post": writer, "add-remark": ownWork, "resolve-remark": ownWork, "delete-remark": ownWork, "answer-remark": planner, "write-post": ownWork, "hand-in-post": ownWork, "give-back-post": ownWork,
	"bring-picture": writer, "describe-picture": ownWork, "replace-picture": ownWork, "delete-picture": ownWork, "restore-picture": ownWork, "make-preview": ownWork, "end-preview": ownWork,
	"decide-comments": editsPosts, "answer-comment": editsPosts, "save-commenting": planner,
	"bin-post": editsPosts, "move-draft": planner, "restore-post": editsPosts, "delete-post": editsPosts,
	"change-posts": planner, "add-link-item": editsPosts,
	"add-category": editsPosts, "save-category": editsPosts, "order-categories": editsPosts, "set-default-category": editsPosts, "delete-category": editsPosts, "rename-tag": editsPosts, "delete-tag": editsPosts,

	"commit-placement": planner, "close-up": planner, "propose-reflow": planner, "apply-reflow": planner,
	"order-shelf": planner, "clear-post": planner, "unclear-post": planner,
	"shelve-post": planner, "publish-post": planner, "retime-post": planner, "bound-post": planner, "undo": planner,
	"hold-post": planner, "release-post": planner, "move-posts": planner, "swap-posts": planner,
	"get-ground": planner, "edit-posts": planner,
	"save-rhythm": planner, "add-season": planner, "save-season": planner, "drop-season": planner,
	"read-rests": planner, "save-settings": planner, "save-channel": planner, "connect-channel": editorSelf, "pause-channel": planner, "delete-channel": planner, "copy-channel": editorSelf, "add-channel": editorSelf,
	"list-webhooks": editorSelf, "add-webhook": editorSelf, "save-webhook": editorSelf, "delete-webhook": editorSelf, "rotate-webhook": editorSelf,
	"test-webhook": editorSelf, "list-told": editorSelf, "tell-again": editorSelf, "settle-outing": planner,
	"get-destinations": planner, "list-copies": planner, "list-copies-of-post": onlooker, "try-copy": planner, "tell-hub": planner, "send-all-posts": planner,
	"save-pages": editorSelf, "add-destination": editorSelf, "save-destination": editorSelf, "end-destination": editorSelf,
	"list-subscribers": editorSelf, "ask-subscribers": editorSelf, "delete-subscriber": editorSelf, "save-mail-rate": editorSelf,
	"save-announcements": planner, "save-post-announcements": planner, "save-word-list": planner, "delete-word-list": planner,
	"create-rule": planner, "save-rule": planner, "delete-rule": planner, "arm-rule": planner, "disarm-rule": planner,
	"get-age-map": onlooker, "list-notices": onlooker, "preview-once": onlooker, "do-once": planner, "order-rules": planner, "confirm-read": editsPosts,
	"get-post-upkeep": onlooker, "keep-post": ownWork, "save-post-answer": editsPosts,
	"run-rule": planner, "set-exclusion": planner, "set-pick": planner,
	"prepare-messages": planner, "save-prepared": planner, "delete-prepared": planner, "release-prepared": planner, "withdraw-prepared": planner, "send-sample": planner,
	"save-prepared-openings": planner,
	"plan-outing":            planner, "take-turn": planner, "move-turn": planner, "swap-turns": planner, "move-outing": planner, "retry-outing": planner, "save-outing": planner, "drop-outing": planner,

	"get-results": onlooker, "table-of-results": onlooker, "list-tours": onlooker, "list-tour-templates": onlooker, "get-tour": onlooker, "preview-tour": onlooker, "preview-resuming": onlooker,
	"begin-tours": planner, "launch-tours": planner, "keep-tour-template": planner, "delete-tour-template": planner, "save-tour": planner, "launch-tour": planner, "pause-tour": planner, "resume-tour": planner, "end-tour": planner, "delete-tour": planner,

	"list-imports": planner, "begin-import": planner, "get-import": planner, "delete-import": planner, "add-import-file": planner, "look-at-import": planner, "preview-import": planner,
	"read-import": planner, "commit-import": planner, "pause-import": planner, "resume-import": planner, "cancel-import": planner, "hurry-import": planner, "save-import-days": planner, "list-feeds": planner, "add-feed": planner, "preview-feed": planner, "save-feed": planner, "delete-feed": planner, "hurry-feed": planner, "make-import-trigger": planner, "list-import-lines": planner, "get-import-line": planner,
	"table-of-import-lines": planner, "get-import-picture": planner, "list-import-setups": planner, "save-import-setup": planner, "delete-import-setup": planner,

	"get-portrait": memberSelf, "set-portrait": memberSelf,
	"list-lenses": memberSelf, "keep-lens": memberSelf, "drop-lens": memberSelf,
	"get-digest": memberSelf, "save-digest": memberSelf, "preview-digest": memberSelf,
	"list-calendars": memberSelf, "make-calendar": memberSelf, "end-calendar": memberSelf,
	"list-tokens": memberSelf, "make-token": editorSelf, "end-token": memberSelf,
	"list-invitations": ownerOfSite, "invite-person": ownerOfSite, "withdraw-invitation": ownerOfSite,
	"save-blog": ownerOfSite, "save-appearance": ownerOfSite, "copy-blog": ownerOfSite, "copy-blog-as-document": ownerOfSite, "archive-blog": ownerOfSite, "unarchive-blog": ownerOfSite, "delete-blog": ownerOfSite,
	"change-role": ownerOfSite, "remove-person": ownerOfSite,
}

// AccessOf is who may use an operation.
func AccessOf(operation string) Access { return accessTo[operation] }

// Seat is where somebody sits who may use the operation they asked for.
type Seat struct {
	act.Desk // at the site of the address, where there is one
	Role     people.Role
	User     store.User
	SignIn   int64 // 0 with a token
	// Still tells, later, whether they still may: they may have signed out or been removed.
	Still func() error
}

type seatKey struct{}

// SeatOf is the seat of who asked; admit has seen to it.
func SeatOf(ctx context.Context) Seat {
	s, _ := ctx.Value(seatKey{}).(Seat)
	return s
}

// DeskOf is the desk of who asked, at the site of the address.
func DeskOf(ctx context.Context) act.Desk { return SeatOf(ctx).Desk }

// OfOwn refuses a thing of somebody else's to who may use the operation on their own only;
// maker is who made it, 0 for nobody who is known.
func OfOwn(ctx context.Context, operation string, maker int64) error {
	at, need := SeatOf(ctx), accessTo[operation]
	if need.Others == "" || maker == at.User.ID || at.Role.Covers(need.Others) {
		return nil
	}
	return huma.Error403Forbidden("This isn’t yours. Ask whoever created it, or an editor.")
}

// Admit lets an operation begin only for those who may use it.
func (s *Tools) Admit(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(hc huma.Context, next func(huma.Context)) {
		need := accessTo[hc.Operation().OperationID]
		at, err := s.seat(hc, need)
		if err != nil {
			said := s.Problem(err)
			status := http.StatusInternalServerError
			if known, ok := errors.AsType[huma.StatusError](said); ok {
				status = known.GetStatus()
			}
			_ = huma.WriteErr(api, hc, status, said.Error())
			return
		}
		at.Still = func() error {
			_, err := s.seat(hc, need)
			return err
		}
		r, _ := humachi.Unwrap(hc)
		leave, err := gate.MakeRoom(r, hc.Operation())
		if err != nil {
			_ = huma.WriteErr(api, hc, http.StatusServiceUnavailable, "The server is busy. Try again in a moment.")
			return
		}
		defer leave()
		next(huma.WithValue(hc, seatKey{}, at))
	}
}

func (s *Tools) seat(hc huma.Context, need Access) (Seat, error) {
	at := Seat{}
	if need == openToAll {
		return at, nil
	}
	at, scopes, tokenSite, err := s.caller(hc)
	if err != nil {
		return at, err
	}
	if scopes != nil {
		switch {
		case need.Scope == "":
			return at, huma.Error403Forbidden("This can’t be done with a token. Sign in with your password.")
		case !slices.Contains(scopes, string(need.Scope)):
			return at, huma.Error403Forbidden("This token may not do that: it lacks the scope “" + string(need.Scope) +
				"”. Make one that has it.")
		}
	}
	switch need.Role {
	case anyPerson:
		return at, nil
	case OwnsABlog:
		return at, s.ownsABlog(hc.Context(), at.User.ID)
	}
	m, err := s.Store.MembershipOf(hc.Context(), at.User.ID, hc.Param("site"))
	if err != nil {
		return at, err
	}
	if scopes != nil && tokenSite != m.ID {
		return at, store.ErrNotFound // for a token there is no site but its own
	}
	at.Desk, at.Role = act.Desk{Store: storeOf(hc.Context(), s.Store), Site: m.Site,
		Actor: at.User.ID}, people.Role(m.Role)
	if !at.Role.Covers(need.Role) {
		return at, refusedTo(need.Role)
	}
	return at, nil
}

func (s *Tools) ownsABlog(ctx context.Context, user int64) error {
	may, err := s.Store.MayAddSites(ctx, user)
	if err == nil && !may {
		return huma.Error403Forbidden("Only owners of a blog add another. Ask one of them.")
	}
	return err
}

func refusedTo(role people.Role) error {
	if role == people.Owner {
		return huma.Error403Forbidden("Only owners of this site do that. Ask one of them.")
	}
	return huma.Error403Forbidden("Only editors and owners of this site do that. Ask one of them.")
}

// caller finds out who asks: by a token, whose scopes and site are returned, or by a
// session, for which scopes are nil.
func (s *Tools) caller(hc huma.Context) (at Seat, scopes []string, site int64, err error) {
	ctx, now := hc.Context(), s.Clock.Now()
	if secret, shown := strings.CutPrefix(hc.Header("Authorization"), "Bearer "); shown {
		token, user, err := s.House().Bearer(ctx, secret, now)
		if errors.Is(err, people.ErrNoToken) {
			return at, nil, 0,
				huma.Error401Unauthorized("This token is unknown or has expired. Create another one under “Your account”.")
		}
		return Seat{User: user}, append([]string{}, token.Scopes...), token.SiteID, err
	}
	id := s.Sessions.GetInt64(ctx, SessionSignIn)
	if id == 0 {
		return at, nil, 0, huma.Error401Unauthorized("Sign in first.")
	}
	user, err := s.Store.UserSignedIn(ctx, id, now)
	if errors.Is(err, store.ErrNotFound) {
		return at, nil, 0, huma.Error401Unauthorized("Sign in first.")
	}
	return Seat{User: user, SignIn: id}, nil, 0, err
}

// RequireAccess panics where an operation does not say who may use it.
func RequireAccess(api huma.API) {
	for path, item := range api.OpenAPI().Paths {
		for _, op := range []*huma.Operation{item.Get, item.Put, item.Post, item.Patch, item.Delete} {
			if op == nil {
				continue
			}
			need, said := accessTo[op.OperationID]
			if !said {
				panic("the operation " + op.OperationID + " at " + path +
					" does not say who may use it; add it to accessTo")
			}
			describeAccess(op, need)
		}
	}
}

// describeAccess writes into the OpenAPI document who may use an operation.
func describeAccess(op *huma.Operation, need Access) {
	role := string(need.Role)
	if role == "" {
		role = "anyone"
	}
	op.Extensions = map[string]any{"x-least-role": role}
	if need.Others != "" {
		op.Extensions["x-least-role-for-others"] = string(need.Others)
	}
	if need == openToAll {
		return
	}
	op.Security = []map[string][]string{{"session": {}}}
	if need.Scope != "" {
		op.Security = append(op.Security, map[string][]string{"token": {string(need.Scope)}})
	}
}
