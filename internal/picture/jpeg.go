package picture

import "encoding/binary"

// Plain reports whether a JPEG carries nothing besides the picture, as those do
// that Take has encoded: no notes (APP, COM), and nothing after its end.
func Plain(file []byte) bool {
	at := 2
	for at+4 <= len(file) && file[at] == 0xff {
		marker, size := file[at+1], int(binary.BigEndian.Uint16(file[at+2:]))
		if marker >= 0xe0 && marker <= 0xef || marker == 0xfe || size < 2 {
			return false
		}
		if at += 2 + size; marker == 0xda {
			break
		}
	}
	// The scan ends at the first marker that is neither stuffing nor a restart.
	for ; at+1 < len(file); at++ {
		if next := file[at+1]; file[at] == 0xff && next != 0 && (next < 0xd0 || next > 0xd7) {
			return next == 0xd9 && at+2 == len(file)
		}
	}
	return false
}

// progressive reports whether a JPEG is sent in several scans. Source: ITU-T T.81, table
// B.1: SOF2, SOF6, SOF10 and SOF14 begin progressive frames.
func progressive(file []byte) bool {
	for at := 2; at+4 <= len(file) && file[at] == 0xff; {
		marker, size := file[at+1], int(binary.BigEndian.Uint16(file[at+2:]))
		if marker == 0xc2 || marker == 0xc6 || marker == 0xca || marker == 0xce {
			return true
		}
		if size < 2 || marker == 0xda {
			return false
		}
		at += 2 + size
	}
	return false
}
