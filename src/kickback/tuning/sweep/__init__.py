"""Which parameter moves which metric: plans of many sets, elasticities, trade-offs."""
