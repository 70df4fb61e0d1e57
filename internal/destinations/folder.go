package destinations

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"dapper.example/internal/bundle"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/pattern"
	"dapper.example/internal/store"
)

// folder is the kind of destinations that are folders on the machine that works: posts are files of Markdown with front matter there.
// Files are written beside their place and renamed into it, so whoever reads the folder sees the old or the new one, whole. Nothing
// outside the folder is touched, wherever links in it lead.
type folder struct{}

// written is a post as its files.
type written struct {
	path     string
	text     []byte
	pictures map[string][]byte // by their paths
}

// digest names what is written, and where.
func (w written) digest() []byte {
	sum := sha256.New()
	fmt.Fprintf(sum, "%s\n%d\n", w.path, len(w.text))
	sum.Write(w.text)
	for _, name := range w.names() {
		fmt.Fprintf(sum, "\n%s %x", name, sha256.Sum256(w.pictures[name]))
	}
	return sum.Sum(nil)
}

// names are the paths of its pictures, in order.
func (w written) names() (names []string) {
	for name := range w.pictures {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// put writes a post and its pictures, and takes away what it had elsewhere.
func (folder) put(ctx context.Context, s *Sender, d store.Destination, p piece, c *store.Copy) error {
	w, err := s.write(ctx, d, p)
	if err != nil {
		return err
	}
	digest, address := w.digest(), addressOf(d, p)
	if c.State == store.CopyThere && bytes.Equal(c.Digest, digest) && slices.Equal(c.Places, []string{w.path}) && c.URL == address {
		return nil
	}
	root, err := s.open(d)
	if err != nil {
		return err
	}
	defer root.Close()
	// Where it may be from now on is kept first: if this process ends, whoever goes on knows what to take away.
	if err := s.Store.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.LockDestination(ctx, d.SiteID, d.ID); err != nil {
			return err
		}
		owner, err := tx.Queries.PlaceOwner(ctx, *c, w.path)
		if err != nil {
			return err
		}
		if owner != 0 {
			return fmt.Errorf("the file %s belongs to another post. Change the pattern of paths, or the address of one of them", w.path)
		}
		if !slices.Contains(c.Places, w.path) {
			if there, err := read(root, w.path, int64(len(w.text))); err == nil && !bytes.Equal(there, w.text) {
				return &channel.Refused{Reason: fmt.Sprintf("there is a file %s already that was not written from here, and it stays", w.path)}
			}
		}
		c.Places = with(c.Places, w.path)
		for _, name := range w.names() {
			c.Pictures = with(c.Pictures, name)
		}
		return tx.Queries.KeepCopy(ctx, *c)
	}); err != nil {
		return err
	}
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.LockDestination(ctx, d.SiteID, d.ID); err != nil {
			return err
		}
		for _, name := range w.names() {
			if err := place(root, name, w.pictures[name]); err != nil {
				return onDisk(err)
			}
		}
		if err := place(root, w.path, w.text); err != nil {
			return onDisk(err)
		}
		if err := clear(ctx, tx, root, c, []string{w.path}, w.names()); err != nil {
			return err
		}
		c.State, c.Digest, c.URL = store.CopyThere, digest, address
		return tx.Queries.KeepCopy(ctx, *c)
	})
}

// remove takes away a post's file, and the pictures that no other post uses.
func (folder) remove(ctx context.Context, s *Sender, d store.Destination, c *store.Copy) error {
	root, err := s.open(d)
	if err != nil {
		return err
	}
	defer root.Close()
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.LockDestination(ctx, d.SiteID, d.ID); err != nil {
			return err
		}
		if err := clear(ctx, tx, root, c, nil, nil); err != nil {
			return err
		}
		c.State, c.Digest, c.URL = store.CopyNone, nil, ""
		return tx.Queries.KeepCopy(ctx, *c)
	})
}

// clear takes away what a copy has beside some files.
func clear(ctx context.Context, tx *store.Tx, root *os.Root, c *store.Copy, places, pictures []string) error {
	for _, name := range c.Places {
		if slices.Contains(places, name) {
			continue
		}
		if err := take(root, name); err != nil {
			return onDisk(err)
		}
	}
	for _, name := range c.Pictures {
		if slices.Contains(pictures, name) {
			continue
		}
		used, err := tx.Queries.PictureIsUsed(ctx, *c, name)
		if err != nil {
			return err
		}
		if used {
			continue
		}
		if err := take(root, name); err != nil {
			return onDisk(err)
		}
	}
	c.Places, c.Pictures = places, pictures
	return nil
}

// write is a post as its files are to be.
func (s *Sender) write(ctx context.Context, d store.Destination, p piece) (w written, err error) {
	text := d.Setup.Posts
	if p.post.Kind == "page" {
		text = d.Setup.Pages
	}
	where, problem := pattern.Path(text)
	if problem != "" {
		return w, &channel.Refused{Reason: fmt.Sprintf("the pattern %s can’t be used. %s", text, problem)}
	}
	w.path, w.pictures = where.Of(p.values()), make(map[string][]byte)
	beside := d.Setup.PictureLink
	if beside == "" {
		beside = strings.Repeat("../", strings.Count(w.path, "/")) + d.Setup.Pictures + "/"
	}
	var failed error
	w.text, err = bundle.FileOf(bundle.MatterOf(p.post, p.old), p.post.Body, func(key, ending string) string {
		found, data, err := s.Store.PictureFile(ctx, p.site.ID, key, widest)
		if errors.Is(err, store.ErrNotFound) {
			return beside + key + "." + ending // it was deleted: the text leads nowhere on the blog either
		}
		failed = errors.Join(failed, err)
		name := key + "." + found.Type
		w.pictures[path.Join(d.Setup.Pictures, name)] = data
		return beside + name
	})
	return w, errors.Join(err, failed)
}

// widest asks for a picture's full width.
const widest = 1 << 20

// addressOf is where readers find a post of a folder, "" where that is not known.
func addressOf(d store.Destination, p piece) string {
	if d.Setup.Address == "" {
		return ""
	}
	at, problem := pattern.Address(d.Setup.Address)
	if problem != "" {
		return ""
	}
	return at.Of(p.values())
}

// open opens a destination's folder, which is made where it is missing.
func (s *Sender) open(d store.Destination) (*os.Root, error) {
	at := filepath.Join(s.Folders, d.Setup.Folder)
	if err := os.MkdirAll(at, 0o755); err != nil {
		return nil, onDisk(err)
	}
	root, err := os.OpenRoot(at)
	if err != nil {
		return nil, onDisk(err)
	}
	return root, nil
}

// place writes a file in one go; one that is there as it is to be stays.
func place(root *os.Root, name string, data []byte) error {
	if there, err := read(root, name, int64(len(data))); err == nil && bytes.Equal(there, data) {
		return nil
	}
	dir := path.Dir(name)
	if err := root.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	// The lock of the destination keeps others off that name; what a process that ended left there is written over.
	part := path.Join(dir, "."+path.Base(name)+".part")
	file, err := root.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o644)
	if err != nil {
		return err
	}
	_, err = file.Write(data)
	err = errors.Join(err, file.Sync(), file.Close())
	if err == nil {
		err = root.Rename(part, name)
	}
	if err != nil {
		return errors.Join(err, root.Remove(part))
	}
	return syncFolder(root, dir)
}

// syncFolder has a change of a folder's names on the disk.
func syncFolder(root *os.Root, dir string) error {
	at, err := root.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(at.Sync(), at.Close())
}

// read reads a file that is no longer than a length and one byte.
func read(root *os.Root, name string, length int64) ([]byte, error) {
	file, err := root.Open(name)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return io.ReadAll(io.LimitReader(file, length+1))
}

// take takes a file away, and the folders that are empty then.
func take(root *os.Root, name string) error {
	if err := root.Remove(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	for dir := path.Dir(name); dir != "."; dir = path.Dir(dir) {
		if root.Remove(dir) != nil {
			break
		}
	}
	return nil
}

// onDisk is what went wrong with files, without where they are on the machine.
func onDisk(err error) error {
	why := "the files could not be written"
	switch {
	case errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT):
		why = "the disk is full"
	case errors.Is(err, fs.ErrPermission):
		why = "the program may not write there"
	case errors.Is(err, syscall.EROFS):
		why = "the disk can only be read"
	case errors.Is(err, syscall.ENOTDIR) || errors.Is(err, syscall.EISDIR) || errors.Is(err, fs.ErrExist):
		why = "a file is where a folder is to be, or the other way round"
	case strings.Contains(err.Error(), "escapes"):
		why = "a link in the folder leads out of it"
	}
	return &diskError{why, err}
}

// diskError is a fault of the disk, said in words.
type diskError struct {
	why string
	err error
}

// Error says it in words.
func (d *diskError) Error() string { return d.why }

// Unwrap is what the system said.
func (d *diskError) Unwrap() error { return d.err }
