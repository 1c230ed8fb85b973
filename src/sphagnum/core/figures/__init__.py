"""What follows from a job's rows and is shared by the stages: cells, goal, lays, levels of paths, loads."""
