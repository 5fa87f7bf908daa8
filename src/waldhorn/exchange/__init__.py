"""Files in and out: the CSV tables, sheets of others, backups, a motor's own file, the code on a tag.

What a file becomes is checked here and stored by `store`; which file a person chose is `pit.files`. Begin with `rows`,
then `importing`."""
