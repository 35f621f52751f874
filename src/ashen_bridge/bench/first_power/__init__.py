"""The first minutes under load: what each sensor shows if all is well, what if closing went wrong, and which it is."""
