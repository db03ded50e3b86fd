"""What texts say, read and compared with what the project knows."""
