"""How long answers take and what comes of them, counted for whatever watches over the server.

Every process that answers writes what it counts into one folder, which the package that counts
takes from its own environment variable; `mildhusk.metering` tells the sums. Without the folder
nothing is counted.
"""

import os
import time

from flask import Flask, Response, g, request

_LIMITS_S = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)


def register(app: Flask) -> None:
    """Count every answer, by the address as the document writes it: no key and no secret."""
    if "PROMETHEUS_MULTIPROC_DIR" not in os.environ:
        return
    from prometheus_client import Histogram

    answers = Histogram(
        "mildhusk_answer_seconds",
        "How long answers took.",
        ("method", "address", "status"),
        buckets=_LIMITS_S,
    )

    @app.after_request
    def end(response: Response) -> Response:
        address = "" if request.url_rule is None else request.url_rule.rule
        # Begun where it got its number, in `logs`.
        took_s = time.monotonic() - g.get("began", time.monotonic())
        answers.labels(request.method, address, response.status_code).observe(took_s)
        return response
