"""What harm can be tried: processes killed, hostile files, odd messages, and many people at once. All on 127.0.0.1."""
