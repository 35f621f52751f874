"""Files that the user's desktop is given: icon and file type."""
