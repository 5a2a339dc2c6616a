"""What many exchanges say: margins, before and after, rehearsal, printed values, report."""
