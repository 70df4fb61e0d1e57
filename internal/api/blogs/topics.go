package blogs

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/store"
	"dapper.example/internal/topics"
)

func (s part) topicOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/categories"
	huma.Register(api, huma.Operation{
		OperationID: "list-categories", Method: http.MethodGet, Path: path, Summary: "The site's categories, with what refers to them",
	}, s.listCategories)
	huma.Register(api, huma.Operation{
		OperationID: "add-category", Method: http.MethodPost, Path: path, Summary: "Add a category", DefaultStatus: http.StatusCreated,
	}, s.addCategory)
	huma.Register(api, huma.Operation{
		OperationID: "save-category", Method: http.MethodPut, Path: path + "/{id}", Summary: "Rename or describe a category",
		Description: "Rules that name it go along; its old address leads on to the new one.",
	}, s.saveCategory)
	huma.Register(api, huma.Operation{
		OperationID: "order-categories", Method: http.MethodPut, Path: path + "/order", Summary: "Put the categories in another order",
		DefaultStatus: http.StatusNoContent, Errors: []int{http.StatusConflict},
	}, s.orderCategories)
	huma.Register(api, huma.Operation{
		OperationID: "set-default-category", Method: http.MethodPut, Path: path + "/default", Summary: "Say in which category drafts are begun",
		DefaultStatus: http.StatusNoContent,
	}, s.setDefaultCategory)
	huma.Register(api, huma.Operation{
		OperationID: "delete-category", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Delete a category, or merge it into another",
		Description: "Rules that name it and are in action wait for an editor then.", DefaultStatus: http.StatusNoContent, Errors: []int{http.StatusConflict},
	}, s.deleteCategory)
}

// Category is one of a site's categories, with what refers to it.
type Category struct {
	ID          int64        `json:"id"`
	Name        string       `json:"name"`
	Slug        string       `json:"slug" doc:"its name in addresses"`
	Description string       `json:"description"`
	Posts       int          `json:"posts" doc:"in whatever state"`
	Openings    int          `json:"openings" doc:"openings of the rhythm and its seasons that are reserved for it"`
	Rules       []NamingRule `json:"rules" doc:"whose conditions name it"`
	Lenses      int          `json:"lenses" doc:"people’s lenses that filter by it"`
	Default     bool         `json:"default" doc:"drafts are begun in it"`
}

// NamingRule is a rule that names a category or a tag.
type NamingRule struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Armed bool   `json:"armed"`
}

type categoriesOutput struct{ Body []Category }

func (s part) listCategories(ctx context.Context, _ *operation.SitePath) (*categoriesOutput, error) {
	all, err := topics.List(ctx, s.Store.Queries, operation.DeskOf(ctx).Site)
	if err != nil {
		return nil, s.Problem(err)
	}
	out := &categoriesOutput{[]Category{}}
	for _, c := range all {
		out.Body = append(out.Body, Category{c.ID, c.Name, c.Slug, c.Description, c.Posts, c.Openings, namingRules(c.Rules), c.Lenses, c.Default})
	}
	return out, nil
}

func namingRules(rules []store.Rule) []NamingRule {
	all := []NamingRule{}
	for _, r := range rules {
		all = append(all, NamingRule{r.ID, r.Name, r.ArmedAt != nil})
	}
	return all
}

// CategoryText is what is written of a category.
type CategoryText struct {
	Name        string `json:"name" maxLength:"1000"`
	Slug        string `json:"slug,omitempty" maxLength:"1000" doc:"its name in addresses; made from its name where it is absent"`
	Description string `json:"description,omitempty" maxLength:"4000"`
}

func (c CategoryText) of(id int64) store.Category {
	return store.Category{ID: id, Name: c.Name, Slug: c.Slug, Description: c.Description}
}

type addCategoryInput struct {
	operation.SitePath
	Body CategoryText
}

// MadeCategory is the id of a category that was added.
type MadeCategory struct {
	ID int64 `json:"id"`
}

func (s part) addCategory(ctx context.Context, in *addCategoryInput) (*struct{ Body MadeCategory }, error) {
	id, err := topics.Add(ctx, operation.DeskOf(ctx), in.Body.of(0), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body MadeCategory }{MadeCategory{id}}, nil
}

type saveCategoryInput struct {
	operation.ItemPath
	Body CategoryText
}

func (s part) saveCategory(ctx context.Context, in *saveCategoryInput) (*categoriesOutput, error) {
	if err := topics.Save(ctx, operation.DeskOf(ctx), in.Body.of(in.ID), s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.listCategories(ctx, &in.SitePath)
}

type orderCategoriesInput struct {
	operation.SitePath
	Body struct {
		Order []int64 `json:"order" maxItems:"1000" doc:"the ids of all categories, in their new order"`
	}
}

func (s part) orderCategories(ctx context.Context, in *orderCategoriesInput) (*struct{}, error) {
	return nil, s.Problem(topics.Order(ctx, operation.DeskOf(ctx), in.Body.Order, s.Clock.Now()))
}

type defaultCategoryInput struct {
	operation.SitePath
	Body struct {
		ID int64 `json:"id" minimum:"0" doc:"0 for none"`
	}
}

func (s part) setDefaultCategory(ctx context.Context, in *defaultCategoryInput) (*struct{}, error) {
	return nil, s.Problem(topics.SetDefault(ctx, operation.DeskOf(ctx), in.Body.ID, s.Clock.Now()))
}

type deleteCategoryInput struct {
	operation.ItemPath
	Into  int64 `query:"into" minimum:"0" doc:"the category that its posts go to; 0 or absent: they have none then"`
	Posts int   `query:"posts" minimum:"0" required:"true" doc:"how many posts it was seen to have; with others by now nothing is done"`
}

func (s part) deleteCategory(ctx context.Context, in *deleteCategoryInput) (*struct{}, error) {
	return nil, s.Problem(topics.Delete(ctx, operation.DeskOf(ctx), in.ID, topics.Fate{Into: in.Into, Posts: in.Posts}, s.Clock.Now()))
}
