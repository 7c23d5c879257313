"""The HTTP border: thin routers, Pydantic models for what comes in, problems for what is refused."""
