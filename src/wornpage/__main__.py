"""`python -m wornpage` is `worn`."""

from wornpage.cli import main

if __name__ == "__main__":
    main()
