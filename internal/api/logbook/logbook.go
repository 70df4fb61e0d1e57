// Package logbook has the operations of the logbook: what was done, and taking it back.
package logbook

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.logbookOperations(api)
}

// LogbookLine is a line of a site's logbook.
type LogbookLine struct {
	ID       int64  `json:"id"`
	PostID   int64  `json:"postId,omitempty"`
	Title    string `json:"title,omitempty" doc:"of the post"`
	Undoable bool   `json:"undoable" doc:"undoing is tried only if things still stand as the deed left them"`
	Together int    `json:"together" doc:"how many lines of one act are undone together; 0 or 1: this one alone"`
	Undone   bool   `json:"undone"`
	LogLine
}

// LogbookPage is a page of a site's logbook.
type LogbookPage struct {
	Lines []LogbookLine `json:"lines"`
	Next  string        `json:"next,omitempty" doc:"the cursor of the next page; absent on the last"`
}

const logbookPage = 50

func (s part) logbookOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "get-logbook", Method: http.MethodGet, Path: "/api/v1/sites/{site}/logbook",
		Summary: "What was done, when, why and by whom", Description: "Latest first.",
	}, s.getLogbook)
	huma.Register(api, huma.Operation{
		OperationID: "undo", Method: http.MethodPost, Path: "/api/v1/sites/{site}/logbook/{id}/undo",
		Summary:     "Take back what a line of the logbook says was done",
		Description: "With all lines of the same act. A publication goes back to its time where that is still to come, else to the front of the shelf.",
	}, s.undo)
	huma.Register(api, huma.Operation{
		OperationID: "get-post-log", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts/{id}/logbook",
		Summary: "The logbook of one post",
	}, s.getPostLog)
}

type logbookInput struct {
	operation.SitePath
	Deed   string `query:"deed" enum:"publish,commit,retime,shelve,clear,unclear,reorder,rhythm,bounds,settings,pause,resume,hold,release,move,undo,close-up,archive,to draft,bin,republish,share,skip,outing,ask,rule,arm,disarm,exclude,upkeep,channel,delivery,people,restore,delete,hand in,give back,address,edit,comments,plan,set aside,announce,import,timed edit,hold edit,prepare,text,refile,add tag,put notice,close comments,warn,ask to read"`
	By     string `query:"by" enum:"engine,me" doc:"only what the engine did, or who is signed in"`
	Cursor string `query:"cursor"`
}

func (s part) getLogbook(ctx context.Context, in *logbookInput) (*struct{ Body LogbookPage }, error) {
	desk := operation.DeskOf(ctx)
	filter := store.LogFilter{Deed: in.Deed, Engine: in.By == "engine"}
	if in.By == "me" {
		filter.Actor = desk.Actor
	}
	if in.Cursor != "" {
		var err error
		if filter.Before, filter.BeforeID, err = readCursor(in.Cursor); err != nil {
			return nil, huma.Error422UnprocessableEntity("The cursor doesn’t belong to this list.",
				&huma.ErrorDetail{Location: "query.cursor", Message: "Use the one from the page before."})
		}
	}
	entries, err := s.Store.Logbook(ctx, desk.Site.ID, filter, logbookPage+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	page := LogbookPage{Lines: []LogbookLine{}}
	if len(entries) > logbookPage {
		entries = entries[:logbookPage]
		last := entries[logbookPage-1]
		page.Next = cursor(last.At, last.ID)
	}
	for _, e := range entries {
		page.Lines = append(page.Lines, ViewLine(desk.Site.Zone(), e))
	}
	return &struct{ Body LogbookPage }{page}, nil
}

func ViewLine(zone civil.Zone, e store.LogEntry) LogbookLine {
	line := LogbookLine{ID: e.ID, Title: operation.OrEmpty(e.Title), Undoable: undo.CanUndo(e),
		Undone:   e.UndoneAt != nil,
		Together: e.Together,
		LogLine:  logLine(zone, e)}
	if e.Post != nil {
		line.PostID = *e.Post
	}
	return line
}

func cursor(at time.Time, id int64) string { return fmt.Sprintf("%d.%d", at.UnixMicro(), id) }

func readCursor(text string) (at time.Time, id int64, err error) {
	var micros int64
	_, err = fmt.Sscanf(strings.TrimSpace(text), "%d.%d", &micros, &id)
	return time.UnixMicro(micros), id, err
}

type undoInput struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

// UndoneLine names the line of the logbook that tells of an undo.
type UndoneLine struct {
	Line int64 `json:"line,omitempty" doc:"undo it to have done again what was undone; absent where a rule did it"`
}

func (s part) undo(ctx context.Context, in *undoInput) (*struct{ Body UndoneLine }, error) {
	line, err := undo.Undo(ctx, operation.DeskOf(ctx), in.ID, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body UndoneLine }{UndoneLine{line}}, nil
}

// LogLine is a line of the logbook.
type LogLine struct {
	operation.Place
	Deed   string `json:"deed"`
	Reason string `json:"reason"`
	Who    string `json:"who" doc:"a person's name, or the engine"`
}

func logLine(zone civil.Zone, e store.LogEntry) LogLine {
	return LogLine{operation.PlaceAt(zone, e.At), e.Deed, e.Reason, e.Who}
}

func (s part) getPostLog(ctx context.Context, in *operation.PostPath) (*struct{ Body []LogLine }, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.Store.Post(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	entries, err := s.Store.LogOf(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	lines := []LogLine{}
	for _, e := range entries {
		lines = append(lines, logLine(desk.Site.Zone(), e))
	}
	return &struct{ Body []LogLine }{lines}, nil
}
