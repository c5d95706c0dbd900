// Package frame is what all screens stand in: the store and the queue, who is signed in, templates and
// answers, pictures and evidence of pages, and [Frame.CarryOut], which carries commands out on a draft.
// A screen's handler is a function of the frame and the request ([Frame.With]).
package frame
