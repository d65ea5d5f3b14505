"""Past one machine: a list split into loads, each packed by a worker of a cluster and published in a store."""
