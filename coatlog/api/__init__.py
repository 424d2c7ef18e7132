"""The API: one file per resource, one guard for shop and role.  Handlers ask an app and shape the answer."""
