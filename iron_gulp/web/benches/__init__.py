"""The pages of a build, a bench each: its router, its view and its template together."""
