package farm

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"perigyre/store"
)

// tidy removes what has lain in the cache for a month.
func tidy(folder string) {
	store.RemoveUnfinished(folder)
	list, _ := os.ReadDir(folder) // what cannot be read is not removed
	for _, e := range list {
		if info, err := e.Info(); err == nil && time.Since(info.ModTime()) > 30*24*time.Hour {
			_ = os.Remove(filepath.Join(folder, e.Name()))
		}
	}
}

// fetch returns something from the object store by its content hash, from the cache where it is there and whole.
func (w *Worker) fetch(ctx context.Context, hash string) ([]byte, error) {
	if len(hash) != 64 || strings.Trim(hash, "0123456789abcdef") != "" {
		return nil, fmt.Errorf("%q is no content hash", cut(hash, 80))
	}
	name := filepath.Join(w.Cache, hash)
	if data, err := os.ReadFile(name); err == nil && hashOf(data) == hash {
		now := time.Now()
		_ = os.Chtimes(name, now, now) // it is in use
		return data, nil
	}
	data, err := w.assets.GetBytes(ctx, hash)
	if err == nil && hashOf(data) != hash {
		err = errors.New("it is not what it should be")
	}
	if err != nil {
		return nil, fmt.Errorf("%.12s cannot be fetched: %w", hash, err)
	}
	if w.Cache != "" {
		if err := store.WriteFile(name, data); err != nil {
			slog.Warn("What was fetched cannot be kept, and is fetched again another time.", "error", err)
		}
	}
	return data, nil
}

// fetchOrder reads a large order, which is kept nowhere.
func (w *Worker) fetchOrder(ctx context.Context, hash string) ([]byte, error) {
	data, err := w.assets.GetBytes(ctx, hash)
	if err == nil && hashOf(data) != hash {
		err = errors.New("is not what it should be")
	}
	return data, err
}
