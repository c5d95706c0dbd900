// Package questions turns a form into questions for a narrow screen: in tab order, under the headings that are printed above them, a few on
// each step, and the rows of tables as cards ([Steps]).
package questions
