package blogs

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/topics"
)

func (s part) tagOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/tags"
	huma.Register(api, huma.Operation{
		OperationID: "list-tags", Method: http.MethodGet, Path: path, Summary: "Tags by name, with what refers to them", Description: "300 at most.",
	}, s.listTags)
	huma.Register(api, huma.Operation{
		OperationID: "rename-tag", Method: http.MethodPut, Path: path + "/{id}", Summary: "Rename a tag", DefaultStatus: http.StatusNoContent,
		Description: "Its posts get a new version of their texts. Rules that name it go along; its old address leads on to the new one.",
	}, s.renameTag)
	huma.Register(api, huma.Operation{
		OperationID: "delete-tag", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Delete a tag, or merge it into another",
		Description:   "Its posts get a new version of their texts. Rules that name it and are in action wait for an editor then.",
		DefaultStatus: http.StatusNoContent, Errors: []int{http.StatusConflict},
	}, s.deleteTag)
}

// Tag is one of a site's tags, with what refers to it.
type Tag struct {
	ID     int64        `json:"id"`
	Name   string       `json:"name"`
	Posts  int          `json:"posts" doc:"in whatever state"`
	Rules  []NamingRule `json:"rules" doc:"whose conditions name it"`
	Lenses int          `json:"lenses" doc:"people’s lenses that filter by it"`
}

// TagsList is a list of tags.
type TagsList struct {
	Tags []Tag `json:"tags"`
	More bool  `json:"more,omitempty" doc:"there are others: look for a part of the name"`
}

type tagsInput struct {
	operation.SitePath
	Find string `query:"find" maxLength:"200" doc:"a part of the name"`
}

func (s part) listTags(ctx context.Context, in *tagsInput) (*struct{ Body TagsList }, error) {
	all, more, err := topics.Tags(ctx, s.Store.Queries, operation.DeskOf(ctx).Site.ID, strings.TrimSpace(in.Find))
	if err != nil {
		return nil, s.Problem(err)
	}
	body := TagsList{Tags: []Tag{}, More: more}
	for _, t := range all {
		body.Tags = append(body.Tags, Tag{t.ID, t.Name, t.Posts, namingRules(t.Rules), t.Lenses})
	}
	return &struct{ Body TagsList }{body}, nil
}

type renameTagInput struct {
	operation.ItemPath
	Body struct {
		Name string `json:"name" maxLength:"1000"`
	}
}

func (s part) renameTag(ctx context.Context, in *renameTagInput) (*struct{}, error) {
	return nil, s.Problem(topics.RenameTag(ctx, operation.DeskOf(ctx), in.ID, in.Body.Name, s.Clock.Now()))
}

type deleteTagInput struct {
	operation.ItemPath
	Into  int64 `query:"into" minimum:"0" doc:"the tag that its posts get instead; 0 or absent: none"`
	Posts int   `query:"posts" minimum:"0" required:"true" doc:"how many posts it was seen to have; with others by now nothing is done"`
}

func (s part) deleteTag(ctx context.Context, in *deleteTagInput) (*struct{}, error) {
	return nil, s.Problem(topics.DeleteTag(ctx, operation.DeskOf(ctx), in.ID, topics.Fate{Into: in.Into, Posts: in.Posts}, s.Clock.Now()))
}
