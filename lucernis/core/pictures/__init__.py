"""Pictures of a plan as plain shapes, drawn alike on screen, as SVG and on paper. Geometry only."""
