"""Figures as machine code: their formulas are traced once, lowered to LLVM and run over whole sheets at once."""
