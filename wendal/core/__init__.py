"""Pure computation: no web, no database; every rule of the product lives here and is tested alone."""
