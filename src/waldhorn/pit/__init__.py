"""What the technician does, room by room: between motors, files, motors, the bench, settings and rigs.

It asks the core and the store, and knows nothing of pages. `writing` is the one way to the store: `read` and `write`;
`judging` puts together what a motor is judged by and keeps the answers. Begin with `bench`."""
