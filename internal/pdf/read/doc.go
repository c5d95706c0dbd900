// Package read turns what a PDF file has into what a draft says: [Check] looks a file over before it is
// used, [Widgets] lists its fields, [Arrive] gives them as rows with the steps, formats and rules that
// their actions and scripts stand for. What a row cannot say is named in [form.Origin] and stays in the
// file. [Leftovers] lists what a file carries beside its pages.
package read
