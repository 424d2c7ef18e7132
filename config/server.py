"""What the web server keeps to; `./coat start` and the container add its address and certificate.

A request is read whole before a thread takes it: a phone that has walked out of reach, or a stranger who
sends half a request, holds nobody up.
"""

workers = 2
backlog = 1024
#: A job comes in as one document, with its pictures.
wsgi_max_body_size = 64 * 1024 * 1024
read_timeout = 30
keep_alive_timeout = 30
graceful_timeout = 5
include_server_header = False
