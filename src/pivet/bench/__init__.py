"""The open piece of work: what both the command line and the window act on."""
