"""The mean of the weights of states of one network: python3 -m training.average FILE.json … --out FILE.json

States along one training lie in one valley, and their mean lower in it than each (Izmailov et al. 2018, "Averaging weights leads to
wider optima and better generalization").
"""

import argparse
import json

import numpy as np

from .dilated import Network, export, take_up


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="+")
    parser.add_argument("--out", required=True)
    options = parser.parse_args()
    networks = [read(path) for path in options.files]
    mean = networks[0]
    mean.params = [np.mean([network.params[i] for network in networks], axis=0) for i in range(len(mean.params))]
    export(mean, options.out)


def read(path):
    with open(path) as file:
        stored = json.load(file)
    outputs = len(stored["layers"][-1]["bias"])
    network = Network(stored["inputs"], stored["channels"], stored["dilations"][1:], [0] * outputs, np.random.default_rng(0))
    take_up(network, path)
    return network


if __name__ == "__main__":
    main()
