"""Tables of the project file that hold values of the core: read, and changed as changes of an entry."""
