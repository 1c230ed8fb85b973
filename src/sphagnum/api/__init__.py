"""Flask: routes, schemas, the OpenAPI document and the built web application."""
