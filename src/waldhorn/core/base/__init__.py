"""What every room of the core stands on: units, errors, the closed lists of words, times, and frozen values.

Here live the motor and its history as plain values (`history`), the conditions a number was taken under
(`conditions`), and the explanation of a number (`explain`). No formula of a motor: those are in `measuring` and above.
Begin with `history`."""
