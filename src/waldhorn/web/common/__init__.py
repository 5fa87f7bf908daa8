"""What all screens share: the guard, pages and forms, addresses, words, the base template and its components.

What only one screen has is in its own folder. Begin with `pages`."""
