package printfile

import "math"

// powers are those of ten that a float holds exactly, so that what is divided by them is as near as can be.
var powers = func() (all [19]float64) {
	all[0] = 1
	for i := 1; i < len(all); i++ {
		all[i] = all[i-1] * 10
	}
	return all
}()

// parse reads a number at i of a line, and gives where it ends; i itself where there is none.
// Digits beyond what a float holds are passed over.
func parse(b []byte, i int) (n float64, end int) {
	negative := false
	start := i
	if i < len(b) && (b[i] == '-' || b[i] == '+') {
		negative = b[i] == '-'
		i++
	}
	whole, digits, more := uint64(0), 0, 0
	for i < len(b) {
		c := b[i] - '0'
		if c > 9 {
			break
		}
		if digits < 18 {
			whole = whole*10 + uint64(c)
		} else {
			more++
		}
		digits++
		i++
	}
	fraction := 0
	if i < len(b) && b[i] == '.' {
		i++
		for i < len(b) {
			c := b[i] - '0'
			if c > 9 {
				break
			}
			if digits < 18 {
				whole = whole*10 + uint64(c)
				fraction++
			}
			digits++
			i++
		}
	}
	if digits == 0 {
		return 0, start
	}
	n = float64(whole) / powers[fraction]
	if more > 0 {
		n *= math.Pow10(more)
	}
	if negative {
		n = -n
	}
	return n, i
}

// valueAt reads the number of a letter that stands before i, with blanks between them or without; i itself where
// there is none.
func valueAt(b []byte, i int) (n float64, end int) {
	if n, end = parse(b, i); end > i {
		return n, end
	}
	from := i
	for from < len(b) && b[from] == ' ' {
		from++
	}
	if n, end = parse(b, from); end > from {
		return n, end
	}
	return 0, i
}

func roundTo(n, parts float64) float64 { return math.Round(n*parts) / parts }
