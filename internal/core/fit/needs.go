package fit

// NeedsOf lists the keys of the kits that a kit needs.
func (k Kit) NeedsOf() []string {
	var out []string
	var walk func(r Requirement)
	walk = func(r Requirement) {
		if r.Kit != nil {
			out = append(out, r.Kit.Key)
		}
		for _, group := range [][]Requirement{r.All, r.Any} {
			for _, p := range group {
				walk(p)
			}
		}
	}
	walk(k.Needs)
	return out
}

// Circle finds kits that need each other in a circle, which none of them can
// ever fit; nil when there is none.
func Circle(kits []Kit) []string {
	needs := map[string][]string{}
	for _, k := range kits {
		needs[k.Key] = k.NeedsOf()
	}
	state := map[string]int{} // 1 on the way, 2 done
	var path []string
	var visit func(key string) []string
	visit = func(key string) []string {
		switch state[key] {
		case 1:
			for i, k := range path {
				if k == key {
					return append(append([]string(nil), path[i:]...), key)
				}
			}
		case 2:
			return nil
		}
		state[key] = 1
		path = append(path, key)
		for _, next := range needs[key] {
			if found := visit(next); found != nil {
				return found
			}
		}
		path = path[:len(path)-1]
		state[key] = 2
		return nil
	}
	for _, k := range kits {
		if found := visit(k.Key); found != nil {
			return found
		}
	}
	return nil
}
