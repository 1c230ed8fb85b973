"""Things that are built: from what a tape gives to parts, figures and a drawing; absorbers of a room, windows."""
