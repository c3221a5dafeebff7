"""Judgement: a whole system proposed from loads and wishes, and variants of one plan side by side."""
