package object

// Field flags, key /Ff. Bit positions in the standard count from 1, so bit n has the
// value 1<<(n-1).
const (
	// ISO 32000-2, table 227: flags common to all field types.
	FlagReadOnly = 1 << 0
	FlagRequired = 1 << (2 - 1)
	FlagNoExport = 1 << (3 - 1)
	// ISO 32000-2, table 229: flags of button fields.
	FlagNoToggleToOff  = 1 << (15 - 1)
	FlagRadio          = 1 << (16 - 1)
	FlagPushbutton     = 1 << (17 - 1)
	FlagRadiosInUnison = 1 << (26 - 1)
	// ISO 32000-2, table 231: flags of text fields.
	FlagMultiline       = 1 << (13 - 1)
	FlagPassword        = 1 << (14 - 1)
	FlagFileSelect      = 1 << (21 - 1)
	FlagDoNotSpellCheck = 1 << (23 - 1)
	FlagDoNotScroll     = 1 << (24 - 1)
	FlagComb            = 1 << (25 - 1)
	// ISO 32000-2, table 233: flags of choice fields.
	FlagCombo       = 1 << (18 - 1)
	FlagEdit        = 1 << (19 - 1)
	FlagSort        = 1 << (20 - 1)
	FlagMultiSelect = 1 << (22 - 1)
)

// Annotation flags, key /F (ISO 32000-2, table 167).
const (
	AnnotHidden = 1 << (2 - 1)
	AnnotPrint  = 1 << (3 - 1)
	AnnotNoView = 1 << (6 - 1)
	AnnotLocked = 1 << (8 - 1)
)

// SigFlags of the interactive form dictionary (ISO 32000-2, table 225).
const (
	SigFlagSignaturesExist = 1 << 0
	SigFlagAppendOnly      = 1 << (2 - 1)
)

// FieldFlags are the flags that say by themselves what a property of a field says, by its key in the
// registry. They are written and read by this table.
var FieldFlags = map[string]int{
	"readonly": FlagReadOnly, "required": FlagRequired, "noexport": FlagNoExport, "multiline": FlagMultiline, "password": FlagPassword,
	"filepath": FlagFileSelect, "nospell": FlagDoNotSpellCheck, "noscroll": FlagDoNotScroll, "unison": FlagRadiosInUnison, "sort": FlagSort,
}
