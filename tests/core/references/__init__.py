"""How each topic of the reference cases is checked: one function a topic."""
