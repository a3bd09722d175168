"""What every wing speaks: units, stated values, moments, errors, findings, changes, cautions."""
