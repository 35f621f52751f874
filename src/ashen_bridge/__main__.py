"""`python -m ashen_bridge` is the command line."""

from ashen_bridge.cli.main import main

if __name__ == "__main__":
    main()
