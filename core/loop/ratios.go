package loop

import (
	"math/big"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// Drivers are the parts that gears are driven by.
func Drivers(s *shot.Shot) map[string]bool {
	out := map[string]bool{}
	for i := range s.Parts {
		for k := range s.Parts[i].Moves {
			if g, ok := s.Parts[i].Moves[k].Data.(*move.Gear); ok {
				out[g.Driver] = true
			}
		}
	}
	return out
}

// Turns is after how many turns of a part it and all that gears drive by it, each other too, have come round to where they stood: the
// least common multiple of their periods, which are exact fractions. It is 0 where nothing is driven, or none is within any shot.
func Turns(s *shot.Shot, driver string) int64 {
	periods := []*big.Rat{big.NewRat(1, 1)}
	seen := map[string]bool{driver: true}
	type driven struct {
		part  string
		ratio *big.Rat // turns of it for a turn of the driver
	}
	for list := []driven{{driver, big.NewRat(1, 1)}}; len(list) > 0; list = list[1:] {
		for i := range s.Parts {
			p := &s.Parts[i]
			for k := range p.Moves {
				g, ok := p.Moves[k].Data.(*move.Gear)
				if !ok || p.Moves[k].Muted || g.Driver != list[0].part || seen[p.ID] || g.Num < 1 || g.Den < 1 {
					continue
				}
				seen[p.ID] = true
				ratio := new(big.Rat).Mul(list[0].ratio, big.NewRat(int64(g.Num), int64(g.Den)))
				if ratio.Num().BitLen() > 62 || ratio.Denom().BitLen() > 62 {
					return 0
				}
				periods = append(periods, new(big.Rat).Inv(ratio))
				list = append(list, driven{p.ID, ratio})
			}
		}
	}
	if len(periods) < 2 {
		return 0
	}
	all := Together(periods)
	if all == nil || !all.IsInt() {
		return 0
	}
	return all.Num().Int64()
}
