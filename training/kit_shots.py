"""
Single strokes out of kits that come as folders of sound files beside a drumkit.xml, for training.drums: python3 -m training.kit_shots
FOLDER… --out FOLDER. Needs Debian's sox. What instruments are called says their kind.
"""

import argparse
import os
import re
import subprocess
import xml.etree.ElementTree

from .drum_sounds import KINDS
from .synth import SAMPLE_RATE_HZ

# The first that fits.
NAMES = [
    ("closed-hat", r"(closed|pedal).*(hh|hat)|(hh|hat).*(closed|pedal)"), ("open-hat", r"open.*(hh|hat)|(hh|hat).*open"),
    ("kick", r"kick|bass ?drum"), ("snare", r"snare|clap|stick"), ("tom", r"\btom\b"), ("cymbal", r"crash|ride|cymbal|splash"),
]


def kind_of(name):
    return next((kind for kind, pattern in NAMES if re.search(pattern, name, re.IGNORECASE)), None)


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("folders", nargs="+")
    parser.add_argument("--out", required=True)
    options = parser.parse_args()
    os.makedirs(options.out, exist_ok=True)
    for folder in options.folders:
        written = dict.fromkeys(KINDS, 0)
        root = xml.etree.ElementTree.parse(os.path.join(folder, "drumkit.xml")).getroot()
        for element in root.iter():
            # Some of these files have a namespace, others none.
            element.tag = element.tag.split("}")[-1]
        for instrument in root.iter("instrument"):
            kind = kind_of(instrument.findtext("name"))
            for filename in instrument.iter("filename") if kind else ():
                written[kind] += 1
                out = os.path.join(options.out, f"{kind} {os.path.basename(folder)} {written[kind]}.wav")
                subprocess.run(
                    ["sox", os.path.join(folder, filename.text), "-r", str(SAMPLE_RATE_HZ), "-c", "1", "-b", "16", out, "norm", "-1"], check=True
                )
        print(folder, {kind: count for kind, count in written.items() if count})


if __name__ == "__main__":
    main()
