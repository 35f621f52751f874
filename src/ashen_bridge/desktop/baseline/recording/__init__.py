"""Recording live readings: where they come from, and the page that shows them come in."""
