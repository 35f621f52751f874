"""Papers: HTML templates filled with plain values, as self-contained pages and as PDF."""
