"""The pit's propellers and packs: what each is called. Begin with `routes`."""
