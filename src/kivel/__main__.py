"""`python -m kivel`."""

from kivel.cli.main import program

if __name__ == "__main__":
    program()
