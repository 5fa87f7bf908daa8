"""What the readings of a motor say of it: baselines, changes, evidence, faults, the answer and the next test.

The way goes from `baseline` and `change` over `assessment` (every quantity now against then) and `faults` (which
hypotheses explain the changes) to `answer`; words come last (`headlines`, `sentences`) and decide nothing. No readings
are made here (`measuring`). Begin with `verdict`."""
