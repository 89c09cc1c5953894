"""What an assessment is shown as: verdicts, how figures came about, the wiring diagram, port lists, parts, the readout.

Judges nothing: it says what ``assess`` found in the words and shapes that the window, the sheets and the command line share.
"""
