"""Pictures over an axis: traces, courses, intervals. Plain pictures in, painters draw."""
