"""`python -m iron_gulp.cli`."""

from . import app

app()
