// Package roster knows what an office's people records have and what a form can take from them: which datum of a person a field asks for
// ([Propose]), and what a form is filled in with for one person ([Values]). Where the records lie is not its concern.
package roster
