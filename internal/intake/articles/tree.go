// Package articles reads articles from files: Markdown, plain text, HTML and .docx in any folders, by themselves or in .zip
// archives, with their front matter, and with the pictures that lie beside them.
//
// What is read is bounded whatever the files hold. What cannot be read is left out with its path and the reason.
package articles

import (
	"archive/zip"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"iter"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/words"
)

// Limits of what is read.
const (
	MaxFiles    = 20_000
	MaxArticle  = 4 << 20 // bytes of an article's file, unpacked
	MaxArticles = 512 << 20
	maxPicture  = 20 << 20
	maxData     = 16 << 20 // bytes of a file such as blog.json
	// maxDirectory is how many bytes the directory of an archive may have; it is read into memory.
	maxDirectory = 8 << 20
	maxPath      = 500
	maxLeft      = 500 // files that are left out are named one by one up to here
)

// Upload is a file as it was brought: an archive, an article or a picture.
type Upload struct {
	Path string // with the folders that it lay in, with slashes
	Size int64
	io.ReaderAt
}

// Left is a file that is left out, and why, in a sentence.
type Left struct{ Path, Why string }

// Unreadable says, in a sentence, why nothing of a source can be read.
type Unreadable struct{ Why string }

func (u *Unreadable) Error() string { return u.Why }

func unreadable(format string, args ...any) error { return &Unreadable{fmt.Sprintf(format, args...)} }

// Tree is the files of a source.
type Tree struct {
	articles []file
	pictures map[string]file
	data     map[string]file // what a blog that was written out has beside its posts
	left     []Left
	unnamed  int // files that are left out and not named
}

type file struct {
	path string
	size int64
	open func() (io.ReadCloser, error)
}

// articleKinds are the ends of the names of articles.
var articleKinds = map[string]bool{".md": true, ".markdown": true, ".txt": true, ".text": true, ".html": true, ".htm": true, ".xhtml": true, ".docx": true}

var pictureKinds = map[string]bool{".jpg": true, ".jpeg": true, ".png": true, ".gif": true, ".webp": true}

var dataFiles = map[string]bool{"blog.json": true, "comments.jsonl": true, "pictures.json": true}

// Open looks at files, and into archives among them, without reading what they hold. It fails with *Unreadable.
func Open(ctx context.Context, uploads []Upload) (*Tree, error) {
	t := &Tree{pictures: make(map[string]file), data: make(map[string]file)}
	for _, u := range uploads {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if strings.EqualFold(path.Ext(u.Path), ".zip") {
			if err := t.unpack(ctx, u); err != nil {
				return nil, err
			}
			continue
		}
		t.add(file{u.Path, u.Size, func() (io.ReadCloser, error) { return io.NopCloser(io.NewSectionReader(u, 0, u.Size)), nil }})
	}
	if n := t.files(); n > MaxFiles {
		return nil, unreadable("There are more than %d files. Bring them in in parts.", MaxFiles)
	}
	slices.SortStableFunc(t.articles, func(a, b file) int { return cmp.Compare(naturally(a.path), naturally(b.path)) })
	return t, nil
}

func (t *Tree) files() int { return len(t.articles) + len(t.pictures) + len(t.left) + t.unnamed }

// naturally is a path as it is sorted: numbers by their value.
func naturally(path string) string {
	var out strings.Builder
	for i := 0; i < len(path); {
		end := i
		for end < len(path) && '0' <= path[end] && path[end] <= '9' {
			end++
		}
		if end == i {
			out.WriteByte(path[i])
			i++
			continue
		}
		digits := strings.TrimLeft(path[i:end], "0")
		fmt.Fprintf(&out, "%03d%s", len(digits), digits)
		i = end
	}
	return out.String()
}

// directory lets an archive's directory be read and no more.
type directory struct {
	io.ReaderAt
	ctx  context.Context
	left int64
}

var errDirectory = errors.New("the directory is too large")

func (d *directory) ReadAt(p []byte, at int64) (int, error) {
	if err := d.ctx.Err(); err != nil {
		return 0, err
	}
	if d.left >= 0 {
		if d.left -= int64(len(p)); d.left < 0 {
			return 0, errDirectory
		}
	}
	return d.ReaderAt.ReadAt(p, at)
}

func (t *Tree) unpack(ctx context.Context, u Upload) error {
	d := &directory{u.ReaderAt, ctx, maxDirectory}
	z, err := zip.NewReader(d, u.Size)
	switch {
	case errors.Is(err, errDirectory):
		return unreadable("“%s” has more files than can be brought in at once. Pack up to %d into one archive.", path.Base(u.Path), MaxFiles)
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return unreadable("“%s” is no .zip archive, or it is cut off. Pack it once more.", path.Base(u.Path))
	case len(z.File) > MaxFiles:
		return unreadable("“%s” has %d files; %d is the most. Pack them in parts.", path.Base(u.Path), len(z.File), MaxFiles)
	}
	d.left = -1
	for _, f := range z.File {
		name := f.Name
		if f.NonUTF8 || !utf8.ValidString(name) {
			if name = strings.ToValidUTF8(name, "\ufffd"); f.NonUTF8 { // as the format has it (APPNOTE.TXT, appendix D)
				if read, err := charmap.CodePage437.NewDecoder().String(f.Name); err == nil && !utf8.ValidString(f.Name) {
					name = read
				}
			}
		}
		name = strings.ReplaceAll(name, `\`, "/")
		switch {
		case strings.HasSuffix(name, "/") || f.Mode().IsDir():
			continue
		case strings.HasPrefix(name, "/") || slices.Contains(strings.Split(name, "/"), "..") || len(name) > 1 && name[1] == ':':
			t.leave(name, "Its path leads out of the archive.")
			continue
		case !f.Mode().IsRegular():
			t.leave(name, "It is a link to another file, which is not followed.")
			continue
		case f.Flags&1 != 0:
			t.leave(name, "It is encrypted. Pack it without a password.")
			continue
		}
		t.add(file{path.Clean(name), int64(min(f.UncompressedSize64, 1<<40)), f.Open}) //nolint:gosec // bounded
	}
	return nil
}

func (t *Tree) leave(path, why string) {
	if len(t.left) == maxLeft {
		t.unnamed++
		return
	}
	t.left = append(t.left, Left{clip(path), why})
}

func clip(path string) string {
	path = strings.ToValidUTF8(strings.ReplaceAll(path, "\x00", ""), "\ufffd")
	if r := []rune(path); len(r) > maxPath {
		return string(r[:maxPath]) + "…"
	}
	return path
}

// add sorts a file among articles and pictures, or leaves it out.
func (t *Tree) add(f file) {
	name, kind := path.Base(f.path), strings.ToLower(path.Ext(f.path))
	switch {
	case strings.HasPrefix(name, ".") || strings.HasPrefix(f.path, "__MACOSX/") || strings.EqualFold(name, "thumbs.db") || strings.EqualFold(name, "desktop.ini"):
		return // what systems leave in folders
	case len(f.path) > maxPath:
		t.leave(f.path, fmt.Sprintf("Its path is longer than %d characters.", maxPath))
	case articleKinds[kind] && f.size > mostOf(kind):
		t.leave(f.path, fmt.Sprintf("It has more than %d MB.", mostOf(kind)>>20))
	case articleKinds[kind]:
		t.articles = append(t.articles, f)
	case pictureKinds[kind] && f.size > maxPicture:
		t.leave(f.path, fmt.Sprintf("The picture has more than %d MB.", maxPicture>>20))
	case pictureKinds[kind]:
		t.pictures[f.path] = f
	case dataFiles[f.path]:
		t.data[f.path] = f
	case kind == ".zip":
		t.leave(f.path, "It is an archive within an archive. Bring it in by itself.")
	default:
		t.leave(f.path, "It is neither an article (.md, .txt, .html, .docx) nor a picture (.jpg, .png, .gif, .webp).")
	}
}

// mostOf is how many bytes an article of a kind may have.
func mostOf(kind string) int64 {
	if kind == ".docx" {
		return maxDocx
	}
	return MaxArticle
}

// Count is how many articles there are.
func (t *Tree) Count() int { return len(t.articles) }

// Left lists what is left out, before any article is read. The last says how many more there are where they are too many.
func (t *Tree) Left() []Left {
	if t.unnamed > 0 {
		return append(slices.Clone(t.left), Left{"…", words.Count(t.unnamed, "more file") + " left out for such reasons."})
	}
	return t.left
}

// Pictures are the paths of the pictures.
func (t *Tree) Pictures() intake.Pictures {
	paths := make([]string, 0, len(t.pictures))
	for p := range t.pictures {
		paths = append(paths, p)
	}
	slices.Sort(paths)
	return intake.PicturesOf(paths)
}

// CountPictures is how many pictures there are.
func (t *Tree) CountPictures() int { return len(t.pictures) }

// Picture reads a picture.
func (t *Tree) Picture(ctx context.Context, at string) ([]byte, error) {
	if f, there := t.pictures[at]; there {
		return read(ctx, f, maxPicture)
	}
	for _, f := range t.articles {
		name, within := strings.CutPrefix(at, f.path+"/")
		if !within || !strings.EqualFold(path.Ext(f.path), ".docx") {
			continue
		}
		data, err := read(ctx, f, maxDocx)
		if err != nil {
			return nil, err
		}
		picture, why := pictureOfDocx(data, name)
		if why != "" {
			return nil, unreadable("%s", why)
		}
		return picture, nil
	}
	return nil, unreadable("There is no picture “%s”.", clip(at))
}

// Data reads a file that a blog was written out with, such as blog.json; nil where there is none.
func (t *Tree) Data(ctx context.Context, name string) ([]byte, error) {
	f, there := t.data[name]
	if !there {
		return nil, nil
	}
	return read(ctx, f, maxData)
}

// read reads a file up to a limit, whatever its directory says of its size.
func read(ctx context.Context, f file, most int64) ([]byte, error) {
	r, err := f.open()
	if err != nil {
		return nil, unreadable("It can't be unpacked: %s.", err)
	}
	defer r.Close()
	data, err := io.ReadAll(io.LimitReader(&untilDone{r, ctx}, most+1))
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case isOfArchive(err):
		return nil, unreadable("It can't be unpacked: it is damaged or cut off.")
	case err != nil:
		return nil, err // the place where it is kept does not answer
	case int64(len(data)) > most:
		return nil, unreadable("It has more than %d MB.", most>>20)
	}
	return data, nil
}

// isOfArchive tells whether an error says that a packed file is not what it should be.
func isOfArchive(err error) bool {
	var corrupt interface{ Error() string }
	return err != nil && (errors.Is(err, zip.ErrChecksum) || errors.Is(err, zip.ErrFormat) || errors.Is(err, zip.ErrAlgorithm) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.As(err, &corrupt) && strings.HasPrefix(corrupt.Error(), "flate:"))
}

type untilDone struct {
	io.Reader
	ctx context.Context
}

func (u *untilDone) Read(p []byte) (int, error) {
	if err := u.ctx.Err(); err != nil {
		return 0, err
	}
	return u.Reader.Read(p)
}

// Lines yields the articles, in the order of their paths, from one on that is counted from 0. One that cannot be read has a Why.
// An error ends them: that of the context, *Unreadable where together they are too much, or that of the place where they are kept.
func (t *Tree) Lines(ctx context.Context, from int) iter.Seq2[Read, error] {
	return func(yield func(Read, error) bool) {
		var sum int64
		for _, f := range t.articles[min(from, len(t.articles)):] {
			data, err := read(ctx, f, mostOf(strings.ToLower(path.Ext(f.path))))
			if sum += min(int64(len(data)), MaxArticle); sum > MaxArticles { // the rest of a .docx is pictures
				err = unreadable("The articles have more than %d MB together. Bring them in in parts.", MaxArticles>>20)
				yield(Read{}, err)
				return
			}
			one := Read{Line: intake.Line{Key: clip(f.path), Place: clip(f.path), File: f.path}}
			if u, ok := errors.AsType[*Unreadable](err); ok {
				one.Why = u.Why
			} else if err != nil {
				yield(Read{}, err)
				return
			} else {
				one.Why = decode(&one.Line, data)
			}
			if !yield(one, nil) {
				return
			}
		}
	}
}

// Read is an article as it was read, or why it could not be.
type Read struct {
	intake.Line
	Why string
}
