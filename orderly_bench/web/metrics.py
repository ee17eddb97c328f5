"""Figures for a monitor, in the text format that such programs read: requests, how long they took, what waits, how the database stands.

They hold no name and nothing of the lab, and are given to this machine alone, or to the addresses that are named for it.
"""

from __future__ import annotations

import time
from collections.abc import Iterable

from flask import Flask, Response, current_app, g, request
from prometheus_client import CollectorRegistry, Counter, Histogram
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.registry import Collector

from orderly_bench.database.engine import nodes_of
from orderly_bench.web.gate import AGAIN

LOOPBACK = ("127.0.0.1", "::1")
#: Seconds: a score is to be kept in 0.06 alone and 0.5 among many.
BOUNDS = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10)


class Metrics(Collector):
    """What one web server counts, and what it looks at when it is asked."""

    def __init__(self, app: Flask) -> None:
        self.app, self.registry = app, CollectorRegistry()
        labels = ("method", "route", "status")
        self.requests = Counter("orderly_bench_requests", "Requests answered.", labels, registry=self.registry)
        self.took = Histogram(
            "orderly_bench_request_seconds", "Seconds until a request was answered.", ("method", "route"), buckets=BOUNDS, registry=self.registry
        )  # fmt: skip
        self.again = Counter(
            "orderly_bench_requests_sent_again", "Requests that another node of the database was asked to answer.", registry=self.registry
        )  # fmt: skip
        self.registry.register(self)

    def collect(self) -> Iterable[Metric]:
        """What waits, and the nodes of the database."""
        places, worker = self.app.extensions.get("places"), self.app.extensions.get("worker")
        if places is not None:
            yield GaugeMetricFamily("orderly_bench_requests_waiting", "Requests that wait for a place.", places.waiting)
        if worker is not None:
            yield GaugeMetricFamily("orderly_bench_work_waiting", "Trials to be worked out.", len(worker.waiting))
        nodes = nodes_of(self.app.extensions["engine"])
        if nodes is None:
            return
        standing = nodes.sizes()
        in_step = GaugeMetricFamily(
            "orderly_bench_database_node_in_step", "1 where the node may be asked.", labels=["node"]
        )
        asked = GaugeMetricFamily(
            "orderly_bench_database_node_asked", "1 for the node this server asks.", labels=["node"]
        )
        for node, one in standing.items():
            in_step.add_metric([str(node)], float(one.good))
            asked.add_metric([str(node)], float(node == nodes.current))
        yield in_step
        yield asked
        size = max((one.size for one in standing.values() if one.good), default=0)
        yield GaugeMetricFamily("orderly_bench_database_cluster_size", "Nodes that the nodes in step see.", size)


def init_metrics(app: Flask) -> None:
    """Count every request but those for files that ship."""
    metrics = app.extensions["metrics"] = Metrics(app)

    @app.after_request
    def count(response: Response) -> Response:
        if request.endpoint not in ("static", "audit.metrics") and not request.environ.get(AGAIN):
            route = str(request.url_rule) if request.url_rule else "none"
            metrics.requests.labels(request.method, route, str(response.status_code)).inc()
            metrics.took.labels(request.method, route).observe(
                time.perf_counter() - g.get("began", time.perf_counter())
            )
        return response


def may_be_told() -> bool:
    """Whether who asks is this machine, or an address that is named for it."""
    return (request.remote_addr or "") in (*LOOPBACK, *current_app.config["METRICS_FOR"])
