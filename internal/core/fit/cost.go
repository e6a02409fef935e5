package fit

// hourRate weighs a technician's hour against money when the cheaper of
// several ways is chosen, in the shop's currency. Source: from memory.
const hourRate = 30

// Cost is what a kit with additional changes costs, and the minutes it takes.
func (k Kit) Cost(changes []AdditionalChange) (price float64, minutes int) {
	price, minutes = k.Price, k.Minutes
	for _, f := range changes {
		price, minutes = price+f.Price, minutes+f.Minutes
	}
	return price, minutes
}

// Weight is a cost in money alone: a technician's hour counts as hourRate.
func Weight(price float64, minutes int) float64 { return price + float64(minutes)/60*hourRate }

func cost(fs []AdditionalChange) (sum float64) {
	for _, f := range fs {
		sum += Weight(f.Price, f.Minutes)
	}
	return sum
}
