"""What the technician does, room by room: at the bench, with motors, between motors, with rigs, files and settings.

It asks the core and writes the store, and knows nothing of pages. Begin with `bench`. What all rooms share: `judging`,
which puts together what a motor is judged by and keeps the answers."""
