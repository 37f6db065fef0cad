package address

import "testing"

// Common practice, no source.
func TestIsBox(t *testing.T) {
	for _, s := range []string{"PO Box 12", "P.O. Box 12", "p o box 7, Corvoe", "Post Office Box 3", "POBox 9", "BP 1204",
		"Boîte postale 8", "Postfach 11 02", "Apartado 55", "Postbus 90", "Box 14", "PMB 4", "Locked Bag 2", "P. O.  Box 1"} {
		if !IsBox(s) {
			t.Errorf("%q is a box number", s)
		}
	}
	for _, s := range []string{"3 Boxwood Lane", "The Old Post Office, Tarl", "12 Letterbox Row", "Signal Box Cottage",
		"Post House, 4 Quay", "1 BP Filling Station Road", ""} {
		if IsBox(s) {
			t.Errorf("%q is a street address", s)
		}
	}
}
