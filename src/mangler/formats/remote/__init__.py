"""Files that are not on this machine: object storage, SFTP, the web. fsspec and its drivers do the talking."""
