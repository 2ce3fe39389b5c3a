"""The manifest, `NAME.kivel.json`: everything known about a sheet or an atlas."""
