package table

import "sort"

// seen remembers at which record a key first stood. Files are mostly in the order
// of their keys; as long as they are, keys are only appended and looked up by
// halving, which costs a fraction of hashing a million of them. From the first
// key out of order on, a map takes over.
type seen struct {
	keys []string
	recs []int32
	m    map[string]int32
}

func (s *seen) get(key string) (record int, ok bool) {
	if s.m != nil {
		r, ok := s.m[key]
		return int(r), ok
	}
	n := len(s.keys)
	if n == 0 || key > s.keys[n-1] {
		return 0, false
	}
	if i := sort.SearchStrings(s.keys, key); s.keys[i] == key {
		return int(s.recs[i]), true
	}
	return 0, false
}

// put remembers a key that get did not find.
func (s *seen) put(key string, record int) {
	if s.m == nil {
		if n := len(s.keys); n == 0 || key > s.keys[n-1] {
			s.keys, s.recs = append(s.keys, key), append(s.recs, int32(record))
			return
		}
		s.m = make(map[string]int32, 2*len(s.keys))
		for i, k := range s.keys {
			s.m[k] = s.recs[i]
		}
		s.keys, s.recs = nil, nil
	}
	s.m[key] = int32(record)
}
