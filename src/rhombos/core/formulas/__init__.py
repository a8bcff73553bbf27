"""What a formula may say: its language, and what it writes down when it is traced."""
