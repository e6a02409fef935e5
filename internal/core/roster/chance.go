package roster

// chance gives numbers that look like chance, the same for the same seed: SplitMix64.
// Source: Steele, Lea & Flood, Fast Splittable Pseudorandom Number Generators, OOPSLA 2014.
type chance uint64

func (c *chance) next() uint64 {
	*c += 0x9e3779b97f4a7c15
	z := uint64(*c)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// below is a number from 0 up to before n.
func (c *chance) below(n int) int { return int(c.next() >> 1 % uint64(n)) }

// share is a number from 0 up to before 1.
func (c *chance) share() float64 { return float64(c.next()>>11) / (1 << 53) }

func (c *chance) shuffle(list []int) {
	for i := len(list) - 1; i > 0; i-- {
		j := c.below(i + 1)
		list[i], list[j] = list[j], list[i]
	}
}
