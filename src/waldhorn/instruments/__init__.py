"""Real instruments: the line they speak, how their lines are read, when a setting has settled, what stops a motor.

`run_control` is the state machine of a live run, `guards` what stops it, `capture` what it yields, `ports` the way to
an instrument. Nothing is stored here (`pit.bench.live`), and no motor is simulated (`simulator`). Begin with
`run_control`."""
