"""The tables: models, migrations, queries; rows to plain values and back; changes and undo.

SQL stands here and nowhere else. What a person may do with it is decided in `pit`. Begin with `engine`, then
`changes`."""
