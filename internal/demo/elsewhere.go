package demo

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/destinations"
	"dapper.example/internal/store"
)

// folderName is that of the folder to which the posts of the second demo blog go.
const folderName = LanesSlug

// GoElsewhere has the posts of the second demo blog go to a folder below one, which is emptied first; with "", they go nowhere. A hub at
// an address is told of the first blog's new posts.
func GoElsewhere(ctx context.Context, s *store.Store, folders, hub string, now time.Time) error {
	dome, err := s.SiteBySlug(ctx, SiteSlug)
	if err != nil {
		return err
	}
	if err := s.InTx(ctx, func(tx *store.Tx) error { return tx.SavePages(ctx, dome.ID, true, hub) }); err != nil {
		return fmt.Errorf("saying which hub is told of new posts: %w", err)
	}
	if folders == "" {
		return nil
	}
	lanes, err := s.SiteBySlug(ctx, LanesSlug)
	if err != nil {
		return err
	}
	owner, err := s.UserByEmail(ctx, "rosalind@dark-lanes.example")
	if err != nil {
		return err
	}
	if taken, err := s.FolderIsTaken(ctx, folderName, 0); err != nil || taken {
		return err
	}
	// What a demo world before this one has written there would be taken for somebody else's.
	if err := os.RemoveAll(filepath.Join(folders, folderName)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return fmt.Errorf("emptying the demo's folder: %w", err)
	}
	_, err = destinations.Editor{Desk: act.Desk{Store: s, Site: lanes, Actor: owner.ID}, Folders: folders}.Add(ctx, destinations.Folder, 0, destinations.Wanted{
		Name: "Static site", Archived: store.KeepArchived, Setup: store.DestinationSetup{Folder: folderName, Posts: "posts/{year}/{slug}.md", Pages: "{slug}.md", Pictures: "pictures",
			PictureLink: "/pictures/", Address: "https://dark-lanes.example/{year}/{slug}/"}}, true, now)
	return err
}
