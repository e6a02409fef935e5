package printfile

// ScanBy is Scan that reads so many bytes at once, so that pieces end anywhere.
var ScanBy = scan
