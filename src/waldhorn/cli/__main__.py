"""`python -m waldhorn.cli`."""

from waldhorn.cli import main

main()
