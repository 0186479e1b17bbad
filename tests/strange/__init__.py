"""A second source of data for the tests: engines made by published relations alone.

Nothing here imports the simulated engine that ships, nor any judgement: what both would share, both would get wrong alike.
`engine` turns and breathes, `exhaust` heats probes, `instruments` shows it badly, `hands` are the pilots. Only the trace's
container comes from the product. Figures drawn at random are ranges of the trade, marked (cp) where no source is published.
"""
