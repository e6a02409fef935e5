package picture

import "encoding/binary"

// orientation reads how a JPEG lies from its Exif note; 1, upright, when there
// is none or it cannot be read. Source: ITU-T T.81, annex B (segments); Exif
// 2.32 and TIFF 6.0 (directory).
func orientation(file []byte) int {
	for at := 2; at+4 <= len(file) && file[at] == 0xff; {
		marker, size := file[at+1], int(binary.BigEndian.Uint16(file[at+2:]))
		if size < 2 || at+2+size > len(file) || marker == 0xda {
			break
		}
		if body := file[at+4 : at+2+size]; marker == 0xe1 && len(body) > 14 && string(body[:6]) == "Exif\x00\x00" {
			return tiffOrientation(body[6:])
		}
		at += 2 + size
	}
	return 1
}

func tiffOrientation(tiff []byte) int {
	var order binary.ByteOrder = binary.BigEndian
	if string(tiff[:2]) == "II" {
		order = binary.LittleEndian
	}
	first := int(order.Uint32(tiff[4:]))
	if first < 8 || first+2 > len(tiff) {
		return 1
	}
	for i := range int(order.Uint16(tiff[first:])) {
		at := first + 2 + 12*i
		if at+12 > len(tiff) {
			return 1
		}
		if order.Uint16(tiff[at:]) == 0x0112 {
			if v := int(order.Uint16(tiff[at+8:])); v >= 1 && v <= 8 {
				return v
			}
		}
	}
	return 1
}

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
