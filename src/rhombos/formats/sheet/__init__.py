"""A line-up and its solved sheet as plain JSON values.

What never changes is sent once (`stages`, by its hash), what hangs on the line-up once for each (`lineup`), numbers as
columns at every solve (`columns`); what explains a number is sent when asked (`explain`). Numbers are SI, null where
unknown; text stands only in picks, choices and sentences.
"""
