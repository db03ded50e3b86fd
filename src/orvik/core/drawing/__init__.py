"""Drawing: the line being drawn, changes of lines, and operations on areas."""
