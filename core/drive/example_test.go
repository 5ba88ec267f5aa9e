package drive_test

import (
	"fmt"

	"tingate/core/drive"
)

// The states of a drive by its statusword (IEC 61800-7-201).
func ExampleDecodeStatusword() {
	fmt.Println(drive.DecodeStatusword(0x0237), "·", drive.DecodeStatusword(0x0250), "·", drive.DecodeStatusword(0x0218))
	// Output: operation_enabled · switch_on_disabled · fault
}
