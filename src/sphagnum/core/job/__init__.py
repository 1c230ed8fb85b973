"""The document a job is: its rows composed, identities and references, edits as operations; and the shelf it names."""
