"""The school: drills, cases with planted mistakes and faults, letters to plan from, and how they are graded."""
