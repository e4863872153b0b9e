"""A process that has the program's libraries imported and nothing of any page: commands are done by copies of it, at once.

It is never needed. Where there is none, or anything about it is not as it should be, a command does its work itself.
"""
