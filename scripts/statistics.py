"""Writes crates/testkit/data/statistics.json: what general-purpose statistics libraries make of samples, for the reference checks.

Usage, in an environment of its own:
    pip install numpy==2.3.5 scipy==1.16.3 statsmodels==0.14.5 && python3 scripts/statistics.py

Rank tests without ties are scipy's exact Mann-Whitney test; with ties, and over several strata, all arrangements of scipy's midranks are
counted one by one. Trials by turns are scipy's permutation test over all signs. Quantiles are numpy's, Holm's adjustment is statsmodels'.
"""
import itertools
import json
import pathlib

import numpy as np
import scipy
import statsmodels
from scipy import stats
from statsmodels.stats.multitest import multipletests

assert (np.__version__, scipy.__version__, statsmodels.__version__) == ("2.3.5", "1.16.3", "0.14.5")
rng = np.random.default_rng(20261127)


def quantiles():
    for count in (1, 2, 3, 5, 10, 17):
        values = np.round(rng.lognormal(4, 0.3, count), 3)
        parts = [0.0, 0.1, 0.25, 0.5, 0.75, 0.9, 1.0]
        yield {"values": values.tolist(), "parts": parts, "quantiles": np.quantile(values, parts).tolist()}


def rank_sum_p(strata):
    """Exact two-sided probability of the summed midrank sums, over all arrangements of each stratum."""
    sums = {0.0: 1.0}
    seen = middle = 0.0
    for a, b in strata:
        ranks = stats.rankdata(np.concatenate([a, b]))
        seen += ranks[: len(a)].sum()
        middle += len(a) * (len(ranks) + 1) / 2
        own = {}
        for chosen in itertools.combinations(range(len(ranks)), len(a)):
            total = float(ranks[list(chosen)].sum())
            own[total] = own.get(total, 0.0) + 1.0
        both = {}
        for x, n in sums.items():
            for y, m in own.items():
                both[x + y] = both.get(x + y, 0.0) + n * m
        sums = both
    far = sum(n for total, n in sums.items() if abs(total - middle) >= abs(seen - middle) - 1e-9)
    return far / sum(sums.values())


def rank_tests():
    for m, n, tied in [(3, 3, False), (5, 5, False), (4, 7, False), (10, 10, False), (12, 9, False)]:
        a, b = rng.lognormal(4, 0.2, m).round(6), rng.lognormal(4.15, 0.2, n).round(6)
        p = stats.mannwhitneyu(a, b, method="exact").pvalue
        yield {"strata": [[a.tolist(), b.tolist()]], "p": float(p)}
    for m, n in [(3, 3), (5, 5), (6, 4), (6, 8)]:
        a, b = rng.integers(1, 7, m).astype(float), rng.integers(2, 8, n).astype(float)
        yield {"strata": [[a.tolist(), b.tolist()]], "p": rank_sum_p([(a, b)])}
    for sizes in [[(3, 3), (3, 3)], [(4, 5), (3, 6)], [(3, 4), (4, 3), (3, 3)]]:
        strata = [(rng.integers(1, 9, m).astype(float), rng.integers(2, 10, n).astype(float)) for m, n in sizes]
        yield {"strata": [[a.tolist(), b.tolist()] for a, b in strata], "p": rank_sum_p(strata)}


def holms():
    for count in (1, 4, 12):
        raw = np.round(rng.uniform(0.0001, 0.2, count), 6)
        yield {"raw": raw.tolist(), "adjusted": multipletests(raw, method="holm")[1].tolist()}


def turns():
    for count in (4, 6, 8):
        a, b = rng.lognormal(4, 0.2, count).round(6), rng.lognormal(4.2, 0.2, count).round(6)
        p = stats.permutation_test(
            (np.log(b) - np.log(a),), np.sum, permutation_type="samples", n_resamples=np.inf, alternative="two-sided"
        ).pvalue
        yield {"pairs": list(zip(a.tolist(), b.tolist())), "p": float(p)}


out = {
    "quantiles": list(quantiles()),
    "rank_tests": list(rank_tests()),
    "holm": list(holms()),
    "turns": list(turns()),
}
path = pathlib.Path(__file__).resolve().parent.parent / "crates/testkit/data/statistics.json"
path.write_text(json.dumps(out, indent=1) + "\n")
