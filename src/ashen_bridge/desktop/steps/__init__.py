"""Procedures at the bench: one step large, the board with its screws, the tray; what opening up and closing up share."""
