"""SQLite through SQLAlchemy: the tables, the engine, the queries, the migrations. SQL lives here, once."""
