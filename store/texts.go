package store

import "sync"

// texts keeps the texts of a few revisions that were read or written last. It is safe for concurrent use.
type texts struct {
	mu    sync.Mutex
	list  []keptText // the newest last
	bytes int
}

type keptText struct {
	shot   string
	number int
	text   []byte
}

// maxTexts bytes are kept.
const maxTexts = 64 << 20

func (t *texts) get(shot string, number int) []byte {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, k := range t.list {
		if k.shot == shot && k.number == number {
			return k.text
		}
	}
	return nil
}

func (t *texts) put(shot string, number int, text []byte) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.list = append(t.list, keptText{shot, number, text})
	for t.bytes += len(text); t.bytes > maxTexts && len(t.list) > 1; {
		t.bytes -= len(t.list[0].text)
		t.list = t.list[1:]
	}
}

// forget drops everything, of a shot that is removed and that another may take the place of.
func (t *texts) forget() {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.list, t.bytes = nil, 0
}
