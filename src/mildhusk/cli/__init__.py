"""The command line, `husk`: the core without a server; a command imports what it needs itself."""
