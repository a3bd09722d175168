"""The papers that leave with the vehicle: one document, for the shop and for the customer."""
