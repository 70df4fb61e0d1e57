package blog

import (
	"bytes"
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// PicturePath is the address of a picture by its name.
func PicturePath(siteSlug, name string) string { return "/blog/" + siteSlug + "/pictures/" + name }

// KeepPicture keeps a picture with all its files; it draws the picture's key and sets
// its id.
func KeepPicture(ctx context.Context, s *store.Store, p *store.Picture, made picture.Made) error {
	return s.InTx(ctx, func(tx *store.Tx) error { return KeepPictureIn(ctx, tx, NewPictureKey(), p, made) })
}

// KeepPictureIn is KeepPicture within a transaction, with a key of one's own.
func KeepPictureIn(ctx context.Context, tx *store.Tx, key string, p *store.Picture, made picture.Made) error {
	p.Key = key
	var err error
	if p.ID, err = tx.InsertPicture(ctx, *p); err != nil {
		return fmt.Errorf("keeping a picture: %w", err)
	}
	for _, f := range made.Files {
		if err := tx.InsertPictureFile(ctx, p.ID, f.Width, f.Data); err != nil {
			return fmt.Errorf("keeping a picture: %w", err)
		}
	}
	return nil
}

// NewPictureKey draws what a picture goes by in addresses.
func NewPictureKey() string {
	var b [8]byte
	rand.Read(b[:])
	return fmt.Sprintf("%016x", b)
}

// pictureFresh is for how long a reader's browser shows a picture without asking whether it was replaced.
const pictureFresh = "public, max-age=600, stale-while-revalidate=604800"

// servePicture shows a picture. It is what it was made as, whatever a browser makes of it. Its address stays when
// another picture takes its place.
func (b *Blog) servePicture(v visit) error {
	name, width, err := picture.ParseName(v.param("name"))
	if err != nil {
		return store.ErrNotFound
	}
	p, data, err := v.Store.PictureFile(v.r.Context(), v.site.ID, name.Key, width)
	if err != nil {
		return err
	}
	h := v.w.Header()
	h.Set("Content-Type", map[string]string{"jpg": "image/jpeg", "png": "image/png"}[p.Type])
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	h.Set("Cross-Origin-Resource-Policy", "cross-origin") // feed readers show it
	h.Set("Cache-Control", pictureFresh)
	version := v.param("name")
	if p.ReplacedAt != nil {
		version += "+" + strconv.FormatInt(p.ReplacedAt.UnixMicro(), 36)
	}
	h.Set("ETag", `"`+version+`"`)
	http.ServeContent(v.w, v.r, "", time.Time{}, bytes.NewReader(data))
	return nil
}
