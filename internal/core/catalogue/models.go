package catalogue

import (
	"slices"

	"wardifex/internal/core/machine"
)

// The laws by which a driver's reference voltage sets its current. Source: the
// driver makers' datasheets; their sense resistors: common practice.
var laws = []machine.Model{
	{Kind: "driver", Name: "Chopper, gain of 8", Maker: "by its law", Defaults: map[string]string{"law": "gain-of-8 chopper", "max-microsteps": "32", "silent": "no"}},
	{Kind: "driver", Name: "Chopper, gain of 5", Maker: "by its law", Defaults: map[string]string{"law": "gain-of-5 chopper", "max-microsteps": "32", "silent": "no"}},
	{Kind: "driver", Name: "Full scale 0.325 V", Maker: "by its law", Defaults: map[string]string{"law": "full-scale 0.325 V", "max-microsteps": "256", "silent": "yes"}},
}

// models that ship; makers, names and markings are invented. A shop adds its
// own, with the markings that it finds on its chips.
var models = slices.Concat(laws, needy, []machine.Model{
	{Kind: "driver", Name: "Rill 8", Maker: "Tideway", BasedOn: "Chopper, gain of 8", Markings: []string{"TW8L"}, Defaults: map[string]string{"rs": "0.1"}},
	{Kind: "driver", Name: "Rill 5", Maker: "Tideway", BasedOn: "Chopper, gain of 5", Markings: []string{"TW5L"}, Defaults: map[string]string{"rs": "0.2", "max-microsteps": "16"}},
	{Kind: "driver", Name: "Hush 9", Maker: "Stilling", BasedOn: "Full scale 0.325 V", Markings: []string{"SH90", "SH9O"}, Defaults: map[string]string{"rs": "0.11"}},
	{Kind: "driver", Name: "Hush 8", Maker: "Stilling", BasedOn: "Full scale 0.325 V", Markings: []string{"SH80"}, Defaults: map[string]string{"rs": "0.15"}},
	{Kind: "mainboard", Name: "Brace board", Maker: "Hollin Works", Defaults: map[string]string{"width": "32-bit", "driver-outputs": "4"},
		Ports: []machine.Port{{Name: "motor", Ways: 4, Amps: 3, Pins: []string{"2B", "2A", "1A", "1B"}}, {Name: "probe", Ways: 5, Amps: 3}, {Name: "heater", Ways: 2, Amps: 10}, {Name: "fan", Ways: 2, Amps: 3}}},
	{Kind: "mainboard", Name: "Sill R2", Maker: "Ardal", Defaults: map[string]string{"width": "32-bit", "driver-outputs": "5"},
		Ports: []machine.Port{{Name: "motor", Ways: 4, Amps: 3, Pins: []string{"1A", "1B", "2A", "2B"}}, {Name: "heater", Ways: 2, Amps: 10}, {Name: "fan", Ways: 2, Amps: 3}}},
	{Kind: "mainboard", Name: "Trestle 5", Maker: "Mossby", Defaults: map[string]string{"width": "32-bit", "driver-outputs": "5"},
		Ports: []machine.Port{{Name: "motor", Ways: 4, Amps: 3, Pins: []string{"1A", "2A", "1B", "2B"}}, {Name: "heater", Ways: 2, Amps: 10}}},
	{Kind: "supply", Name: "Lode 350", Maker: "Lode", Defaults: map[string]string{"volts": "24", "watts": "350"}},
	{Kind: "supply", Name: "Lode 360", Maker: "Lode", Defaults: map[string]string{"volts": "24", "watts": "360"}},
	{Kind: "supply", Name: "Lode 500", Maker: "Lode", Defaults: map[string]string{"volts": "24", "watts": "500"}},
	{Kind: "extruder", Name: "Cleat single drive", Maker: "Hollin Works", Defaults: map[string]string{"ratio": "1"}},
	{Kind: "extruder", Name: "Twinpawl 3:1", Maker: "Pawl & Rack", Defaults: map[string]string{"ratio": "3"}},
	{Kind: "hotend", Name: "Ember lined", Maker: "Ember", Defaults: map[string]string{"liner": "yes", "rating": "240"}},
	{Kind: "hotend", Name: "Forge all-metal", Maker: "Forge", Defaults: map[string]string{"liner": "no", "rating": "300"}},
	{Kind: "springs", Name: "Bollard stiff springs", Maker: "Bollard", Defaults: map[string]string{"stiff": "yes"}},
	{Kind: "tool-plate", Name: "Quayside change plate", Maker: "Ardal", Defaults: map[string]string{"contacts": "14", "contact-amperes": "10"}, Ports: []machine.Port{{Name: "heavy contacts", Ways: 4, Amps: 10}, {Name: "light contacts", Ways: 10, Amps: 3}}},
})
