"""The rules and arithmetic of refinishing work.

Pure Python and numpy: no framework, no input or output, no clock (now is an argument).

film, mix, climate, drying   one subject each, from formula to answer with its reason
sheet, stack                 what a material is, and which materials may lie on which
quantity, aids, compare      what a job takes in paint and besides, and two stacks side by side
run                          facts and entries in, the state of a job and a plan out
errors, why, codec           refusals in words, where a number comes from, plain data in and out
"""

CORE_VERSION = "14"
