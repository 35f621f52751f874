"""The program around the workspaces: windows, header, rail, verdict, findings, palette, guide, files."""
