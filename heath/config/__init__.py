"""Settings, addresses, the server and the checks of a deployment."""
