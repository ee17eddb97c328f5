"""Layouts, a folder each: how it is planned and drawn (``planned.py``, ``draw.py``), and how its trial is read (``read.py``)."""
