package catalogue

import "wardifex/internal/core/machine"

// Shipped is the catalogue that comes with the application. The caller owns
// the lists, not what is in them.
func Shipped() machine.Catalogue {
	c := machine.Catalogue{
		Kinds:       append([]machine.PartKind(nil), kinds...),
		Slots:       append([]machine.Position(nil), slots...),
		Inspections: append([]machine.Inspection(nil), inspections...),
		Models:      append([]machine.Model(nil), models...),
	}
	c = Upgraded(c)
	c.Complete()
	return c
}

// Vocabulary is the shipped catalogue made ready. It panics when the tables of
// this package contradict themselves, which the package's test would show.
func Vocabulary() *machine.Vocabulary {
	v, err := Shipped().Vocabulary()
	if err != nil {
		panic(err)
	}
	return v
}
