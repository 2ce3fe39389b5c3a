"""`python -m kivel`."""

from kivel.cli.main import main

raise SystemExit(main())
