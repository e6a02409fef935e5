package catalogue

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// What ships is data in the published format, as anybody can export, read and hand on.
// Where its numbers come from stands beside it, in shipped/README.md.
//
//go:embed shipped/catalogue.json
var shippedCatalogue []byte

//go:embed shipped/kits.json
var shippedKits []byte

// shipped is what comes with the application. It panics when its files cannot be read,
// which the package's test would show.
var shipped = sync.OnceValue(func() File {
	return File{Catalogue: mustRead(shippedCatalogue).Catalogue, Kits: mustRead(shippedKits).Kits}
})

func mustRead(text []byte) File {
	var f File
	if err := ReadJSON(text, MaxBytes, Format, Version, &f); err != nil {
		panic(fmt.Errorf("the shipped catalogue: %w", err))
	}
	return f
}

// Shipped is the catalogue that comes with the application. The caller owns
// the lists, not what is in them.
func Shipped() machine.Catalogue {
	c := shipped().Catalogue
	c.Kinds, c.Slots = slices.Clone(c.Kinds), slices.Clone(c.Slots)
	c.Inspections, c.Models = slices.Clone(c.Inspections), slices.Clone(c.Models)
	c.Complete()
	return c
}

// Vocabulary is the shipped catalogue made ready. It panics when its files contradict
// themselves, which the package's test would show.
func Vocabulary() *machine.Vocabulary {
	v, err := Shipped().Vocabulary()
	if err != nil {
		panic(err)
	}
	return v
}

// Kit is the shipped kit of a key; the caller owns it.
func Kit(key string) (fit.Kit, bool) {
	at := slices.IndexFunc(shipped().Kits, func(k fit.Kit) bool { return k.Key == key })
	if at < 0 {
		return fit.Kit{}, false
	}
	return copied(shipped().Kits[at]), true
}

// MustKit is Kit of a key that is known to be there; it panics when it is not.
func MustKit(key string) fit.Kit {
	k, ok := Kit(key)
	if !ok {
		panic("no kit ships under the key " + key)
	}
	return k
}

// Kits lists the shipped kits: at least two of every kind of upgrade, with
// differing demands. The caller owns them.
func Kits() []fit.Kit {
	out := make([]fit.Kit, len(shipped().Kits))
	for i, k := range shipped().Kits {
		out[i] = copied(k)
	}
	return out
}

// copied is a kit that shares nothing with the one it was made of.
func copied(k fit.Kit) (out fit.Kit) {
	text, err := json.Marshal(k)
	if err == nil {
		err = json.Unmarshal(text, &out)
	}
	if err != nil {
		panic(fmt.Errorf("the shipped kit %s: %w", k.Key, err))
	}
	return out
}
