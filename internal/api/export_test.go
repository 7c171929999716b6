package api

// PruneKeysNow lets the next request with a key forget old answers, as it does once an hour.
func PruneKeysNow() { keysPruned.Store(0) }
