"""Instruments and the motors behind them: the motor model of the simulated bench, and the season it made."""
