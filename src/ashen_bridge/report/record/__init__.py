"""The record: everything a file knows of a device as one paper, part by part."""
