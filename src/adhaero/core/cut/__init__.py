"""From the plan to the saw: blanks, boards, allocation and layout."""
