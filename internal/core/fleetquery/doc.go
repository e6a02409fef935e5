// Package fleetquery asks a fleet questions: which machines carry what, how sure,
// since when; now, as of a day, or at any time of a period.
package fleetquery
