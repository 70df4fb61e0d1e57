package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/guide"
)

func (s *Server) guideOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "find-in-guide", Method: http.MethodGet, Path: "/api/v1/guide", Summary: "Sections of the guide in which words occur",
		Description: "Without words, its pages.",
	}, s.findInGuide)
	huma.Register(api, huma.Operation{
		OperationID: "get-guide-page", Method: http.MethodGet, Path: "/api/v1/guide/{page}", Summary: "A page of the guide",
	}, s.getGuidePage)
}

// GuideSection is a section of the guide.
type GuideSection struct {
	Page      string `json:"page"`
	PageTitle string `json:"pageTitle"`
	Section   string `json:"section,omitempty" doc:"its id; absent: the beginning of the page"`
	Title     string `json:"title"`
}

// mostSections is how many sections a search finds.
const mostSections = 8

type findInGuideInput struct {
	Words string `query:"words" maxLength:"100"`
}

func (s *Server) findInGuide(_ context.Context, in *findInGuideInput) (*struct{ Body []GuideSection }, error) {
	found := []GuideSection{}
	if in.Words == "" {
		for _, p := range guide.Pages() {
			found = append(found, GuideSection{Page: p.Name, PageTitle: p.Title, Title: p.Title})
		}
	}
	for _, section := range guide.Search(in.Words, mostSections) {
		page, _ := guide.Find(section.Page)
		found = append(found, GuideSection{section.Page, page.Title, section.ID, section.Title})
	}
	return &struct{ Body []GuideSection }{found}, nil
}

type guidePagePath struct {
	Page string `path:"page" maxLength:"60" example:"rules"`
}

// GuidePage is a page of the guide.
type GuidePage struct {
	Title string `json:"title"`
	HTML  string `json:"html" doc:"links to other pages are #page or #page/section"`
}

func (s *Server) getGuidePage(_ context.Context, in *guidePagePath) (*struct{ Body GuidePage }, error) {
	page, found := guide.Find(in.Page)
	if !found {
		return nil, huma.Error404NotFound("The guide has no such page.")
	}
	return &struct{ Body GuidePage }{GuidePage{page.Title, page.HTML}}, nil
}
