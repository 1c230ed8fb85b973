"""Material families and what a material of the shelf becomes in a stack."""
