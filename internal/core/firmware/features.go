package firmware

// Feature is something that can be compiled into a build, with what it takes of
// flash.
type Feature struct {
	Name string  `json:"name"`
	KiB  float64 `json:"kib"`
}

// features with their sizes in KiB. Source: common practice for the probe and
// the full mesh; the others are from memory.
var features = []Feature{
	{"full mesh levelling", 43}, {"contact probe", 5}, {"graphic display", 24}, {"character display", 9}, {"filament change", 3}, {"arc moves", 4},
	{"linear advance", 2}, {"input shaping", 6}, {"card menus", 11}, {"second language", 8}, {"power-loss recovery", 5}, {"boot picture", 2},
}

// Features lists every feature whose size is known. At most 16, since every set
// of them is tried when memory is short.
func Features() []Feature { return features }
