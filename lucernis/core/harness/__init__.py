"""What is screwed and crimped: pieces, terminations, holders, joints and leads. Every paper is a view of it."""
