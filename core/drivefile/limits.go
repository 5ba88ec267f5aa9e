package drivefile

// Limits of what is taken in, in one place; the error that refuses names them. Bytes, but for MaxEntries.
const (
	MaxJSON       = 1 << 20  // a request or a document
	MaxDialect    = 5 << 20  // a drive family's file
	MaxAttachment = 25 << 20 // a photo or a paper
	MaxHistory    = 64 << 20 // a document with its whole history, in a bundle
	MaxBundle     = 20 << 30 // a bundle: a place of 10,000 drives with their photos
	MaxEntries    = 200_000  // files in a bundle
)
