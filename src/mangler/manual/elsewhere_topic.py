"""The page about files that are not on this machine."""

from __future__ import annotations

ELSEWHERE = """\
An extract, an output and a file to look into may be elsewhere: the address is in the place of the path. `mangler run
kiln-log.mangler 's3://kilns/weeks/*.csv' --to s3://kilns/clean/` cleans all that a pattern fits. It needs `pip install
'mangler[remote]'`.

- `s3://bucket/weeks/week-18.csv` is an object of a storage that speaks S3. The keys, the region and the endpoint come
  from where its own tools find them: `AWS_ACCESS_KEY_ID`, `AWS_PROFILE`, `AWS_ENDPOINT_URL` and their files.
- `sftp://ann@server/data/week-18.csv` is a file of a server, with its path from the root. Keys, users, ports and
  names of hosts are those of `~/.ssh`. A server whose key is not in `~/.ssh/known_hosts` is refused.
- `https://server/week-18.csv` is read, and never written. Passwords come from `~/.netrc`, proxies and certificates
  from `HTTPS_PROXY` and `SSL_CERT_FILE`.
- `gs://`, `abfs://` and others that fsspec has drivers for work too, once the driver is installed; the message names
  it. Only those are written to where a file can be put in its place whole.
- A folder has `/` at its end: `s3://kilns/weeks/`. Of it, and of a pattern in quotes, hidden files, recipes and files
  of rows set aside are skipped. `#` names a part of a file: `s3://kilns/log.xlsx#Log`.
- Every format is read and written as here, packed or not. Text and JSON Lines are read as they come; what needs the
  whole file, as Parquet and workbooks, goes through a temporary file. `--cluster` and `--workers` read a file elsewhere
  in one place.
- A connection that breaks is made again, five tries in all, and goes on at the byte where it broke. A file that was
  changed meanwhile is refused. Nothing is delivered of a file that did not come to its end.
- An output is written to a temporary file here, and put in its place by one upload: what was there stays until all of
  it has come. `write by`, `write files of` and `--append` are refused there. A run that is killed during an upload to
  SFTP leaves a hidden file; a later run to the same place takes it away when it is a day old.
- Rows set aside go to a file on this machine: `--aside aside/`. Without it, rows that must be set aside are a refusal.
- `--only-new` asks the place for the version of each file, and skips a file whose version was delivered, without
  reading it. Where the version is new, or the place has none, the content decides.
- A password, a token or a signature in an address is hidden at once: no message, summary, history or JSON shows it.
  But other users of a machine may see a command line.
"""
