"""The record of a trial as one plain frozen value: gathered here by queries, read elsewhere without any."""
