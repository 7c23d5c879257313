"""``python -m adhaero`` does what the ``adhaero`` command does."""

from adhaero.cli import main

if __name__ == "__main__":
    main()
