"""The rules of the job, pure: see README.md in this folder."""
