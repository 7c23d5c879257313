"""The rules of the job: pure computation, in N, mm, MPa and s."""
