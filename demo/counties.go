package demo

// Counties are those of the invented land that the demo office lies in.
var Counties = []string{"Ardmoor", "Brackwater", "Cullen Head", "Easter Fen", "Gannet Coast", "Holm Isles", "Lower Marrow", "Netherby", "Saltmarsh", "Upper Marrow", "Wrackshore"}
