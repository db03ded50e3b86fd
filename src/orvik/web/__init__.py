"""The application: pages, the live connection, and nothing that knows the job."""
