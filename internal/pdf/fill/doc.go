// Package fill writes answers into the fields of a PDF file ([Fill]), and turns fields into page content
// ([Flatten]). What the form has no field or no room for is refused by name.
package fill
