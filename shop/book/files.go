package book

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"net/http"
	"path"
	"strings"
	"time"
	"unicode/utf8"

	"gorm.io/gorm"
)

// FileMost is the largest paper that is kept, in bytes.
const FileMost = 10 << 20

// NewFile is a paper to keep.
type NewFile struct {
	Name    string `json:"name" minLength:"1" maxLength:"120"`
	Content []byte `json:"content" doc:"base64"`
}

// FileView says what is kept under an id.
type FileView struct {
	ID        int64     `json:"id"`
	Name      string    `json:"name"`
	MediaType string    `json:"mediaType"`
	Size      int64     `json:"size"`
	Sha256    string    `json:"sha256"`
	At        time.Time `json:"at"`
}

func (f File) view() FileView {
	return FileView{f.ID, f.Name, f.MediaType, f.Size, hex.EncodeToString(f.Sha256), f.At}
}

// kept are the kinds of paper that may be kept: what their first bytes say,
// under which endings.
var kept = map[string][]string{
	"application/pdf": {".pdf"}, "image/png": {".png"}, "image/jpeg": {".jpg", ".jpeg"}, "text/plain": {".txt", ".csv"},
	"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet": {".xlsx"},
}

// Sniff tells what a file is from its content, and holds that against its name.
func Sniff(name string, content []byte) (string, error) {
	if len(content) == 0 {
		return "", Wrong.At("content", "the file %s is empty", name)
	}
	if len(content) > FileMost {
		return "", TooMuch.At(
			"content",
			"the file %s has %.1f MB: at most %d MB are kept",
			name,
			float64(len(content))/(1<<20),
			FileMost>>20,
		)
	}
	is, _, _ := strings.Cut(http.DetectContentType(content), ";")
	if is == "application/zip" && bytes.Contains(content[:min(len(content), 4096)], []byte("[Content_Types].xml")) {
		is = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	if is == "text/plain" && (!utf8.Valid(content) || bytes.ContainsRune(content, 0)) {
		is = "application/octet-stream"
	}
	endings, known := kept[is]
	if !known {
		return "", Unreadable.At(
			"content",
			"%s is not a PDF, PNG, JPEG, text, CSV or XLSX file: its content is %s",
			name,
			is,
		)
	}
	ending := strings.ToLower(path.Ext(name))
	for _, e := range endings {
		if ending == e {
			return is, nil
		}
	}
	return "", Unreadable.At("content", "%s is not what its name says: its content is %s", name, is)
}

// KeepFile stores a paper for who may keep any of those that papers belong to.
func (s *Book) KeepFile(ctx context.Context, by By, in NewFile) (FileView, error) {
	in.Name = strings.TrimSpace(path.Base(strings.ReplaceAll(in.Name, `\`, "/")))
	is, err := Sniff(in.Name, in.Content)
	if err != nil {
		return FileView{}, err
	}
	sum := sha256.Sum256(in.Content)
	return Write(
		ctx,
		s,
		by,
		ReceiveStock,
		"keep file",
		[]string{in.Name, hex.EncodeToString(sum[:])},
		func(tx *Tx) (FileView, error) {
			f := File{
				Name:      in.Name,
				MediaType: is,
				Size:      int64(len(in.Content)),
				Sha256:    sum[:],
				Content:   in.Content,
				PersonID:  tx.By.ID(),
				At:        tx.Now,
			}
			if err := tx.Create(&f).Error; err != nil {
				return FileView{}, err
			}
			v := f.view()
			return v, tx.Log("file stored", in.Name, "", v)
		},
	)
}

// File gives a paper with its content.
func (s *Book) File(ctx context.Context, id int64) (FileView, []byte, error) {
	var f File
	err := s.DB.Gorm.WithContext(ctx).Take(&f, id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return FileView{}, nil, NoSuch.Errorf("there is no such file")
	}
	return f.view(), f.Content, err
}

func FileViews(db *gorm.DB, where string, args ...any) (map[int64]FileView, error) {
	var all []File
	if err := db.Omit("content").Where(where, args...).Find(&all).Error; err != nil {
		return nil, err
	}
	out := map[int64]FileView{}
	for _, f := range all {
		out[f.ID] = f.view()
	}
	return out, nil
}

func (tx *Tx) KnowsFile(field string, id int64) error {
	if id == 0 {
		return nil
	}
	var n int64
	if err := tx.Model(&File{}).Where("id = ?", id).Count(&n).Error; err != nil {
		return err
	}
	if n == 0 {
		return NotHere.At(field, "there is no such file")
	}
	return nil
}
