"""What a screen says of a job: one room per stage; pure functions of figures."""
