"""Pieces to sheets and rolls, and the buying list that follows."""
