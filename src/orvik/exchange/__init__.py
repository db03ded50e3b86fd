"""Files in and out: pictures, features, and the finished sheet."""
