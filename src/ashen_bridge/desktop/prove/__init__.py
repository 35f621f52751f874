"""The Prove workspace: prediction, calibrated prediction and measurement side by side."""
