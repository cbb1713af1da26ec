"""The craft: functions over frozen values in SI units; no web, no store, no clock."""
