"""Accounts, roles and what each may see; quotas; what keeps a request within bounds."""
