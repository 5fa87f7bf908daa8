"""Find: everything of the store and everything that can be done, by a few letters, from every page.

Begin with `things`, what can be done; `ranking` puts it beside what the pit finds, the likeliest first."""
