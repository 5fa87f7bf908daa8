"""Taking everything out: the data package, a workbook, a backup, a motor's own file.

Begin with `routes`."""
