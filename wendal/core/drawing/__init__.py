"""The drawing: views with exact hidden lines, sections, dimensions that are placed, symbols; pages as lists
of ink."""
