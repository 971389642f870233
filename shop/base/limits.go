package base

// MaxText is the longest free text, in characters.
const MaxText = 4000

// MaxName is the longest name of a thing, in characters.
const MaxName = 200
