package library

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"perigyre/core/model"
)

// BringFile reads a model from a file on disk, with the files that it refers to in the same folder.
func BringFile(ctx context.Context, name, unit string, limits model.Limits, step Step) (*model.Model, *Report, error) {
	info, err := os.Stat(name)
	switch {
	case os.IsNotExist(err):
		return nil, nil, fmt.Errorf("there is no file %s", name)
	case err != nil:
		return nil, nil, err
	case info.IsDir():
		return nil, nil, fmt.Errorf("%s is a folder; name the model in it", name)
	case info.Size() > limits.Bytes:
		return nil, nil, fmt.Errorf("%s has %d MB, more than the %d MB that --max-upload allows", name, info.Size()>>20, limits.Bytes>>20)
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, nil, err
	}
	folder, err := os.OpenRoot(filepath.Dir(name)) // nothing outside it can be reached
	if err != nil {
		return nil, nil, err
	}
	defer folder.Close()
	left := limits.Bytes - info.Size()
	beside := func(path string) ([]byte, bool) {
		info, err := folder.Stat(filepath.FromSlash(path))
		if err != nil || info.IsDir() || info.Size() > left {
			return nil, false
		}
		data, err := folder.ReadFile(filepath.FromSlash(path))
		left -= int64(len(data))
		return data, err == nil
	}
	return stoppable(ctx, limits, step, func(ctx context.Context, step Step) (*model.Model, *Report, error) {
		return bring(ctx, []File{{filepath.Base(name), data}}, beside, unit, limits, step)
	})
}
