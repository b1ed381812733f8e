package edit

import (
	"slices"

	"perigyre/core/shot"
	"perigyre/core/stage"
)

// restage places an import and its set anew after it has been given another size or upright.
func (w *Work) restage(root string) error { return stage.Stand(w.Shot, root, w.Assets) }

// sized resizes parts. A model that stands as it was staged, with a plinth and lights of its size, is staged anew at its new
// one: they were made for it, and nobody has changed them since.
func (w *Work) sized(list []int, resize func() error) error {
	var staged []string
	for _, src := range w.Shot.Sources {
		if slices.Contains(list, w.Index().Part(src.Root)) && stage.Staged(w.Shot, src.Root, w.Assets) {
			staged = append(staged, src.Root)
		}
	}
	if err := resize(); err != nil {
		return err
	}
	for _, root := range staged {
		if err := w.restage(root); err != nil {
			return err
		}
	}
	return nil
}

// Stage sizes plinth and lights to an import and stands it on its plinth.
type Stage struct {
	Part string `json:"part"`
}

func init() {
	Register[Stage]("stage")
	Follow(Cameras, func(s *shot.Shot, env Env) error { return stage.FitCamera(s, env.Assets, env.Memory) })
}

// Do implements Change.
func (e *Stage) Do(w *Work) (string, error) {
	list, err := w.free([]string{e.Part})
	if err != nil {
		return "", err
	}
	return "Stage " + w.names(list) + " anew", w.restage(e.Part)
}
