package edit

import (
	"perigyre/core/shot"
	"perigyre/core/stage"
)

// restage places an import and its set anew after it has been given another size or upright.
func (w *Work) restage(root string) error { return stage.Stand(w.Shot, root, w.Assets) }

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
