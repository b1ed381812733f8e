package shot

// Times calls at for the time of every pin of the track, and long for the reach of its handles in time.
func (t *Track) Times(at, long func(*float64)) {
	for i := range t.Pins {
		pin := &t.Pins[i]
		at(&pin.Time)
		for _, h := range []*Handle{pin.In, pin.Out} {
			if h != nil {
				long(&h.Time)
			}
		}
	}
}
