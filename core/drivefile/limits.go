package drivefile

// Limits of what is taken in, in one place; the error that refuses names them. Bytes, but for MaxEntries.
const (
	MaxJSON       = 1 << 20   // a request or a document
	MaxDialect    = 5 << 20   // a drive family's file
	MaxAttachment = 25 << 20  // a photo or a paper
	MaxBundle     = 200 << 20 // a bundle as it comes
	MaxUnpacked   = 1 << 30   // and unpacked
	MaxEntries    = 10000     // files in a bundle
)
