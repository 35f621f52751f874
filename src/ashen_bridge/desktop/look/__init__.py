"""How everything looks: colours and sizes as data, fonts, symbols, style sheet, preferences."""
