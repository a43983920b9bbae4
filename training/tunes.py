"""Writes published melodies as JSON, for pieces whose rhythms somebody made: `python3 -m training.tunes --out D/tunes.json`.

Needs the package music21 (BSD), whose corpus holds collections of tunes from the nineteenth century and before, out of
copyright, in the notation that is called ABC. Each tune comes as {collection, title, metre, barQuarters, key, notes}: its metre as
written and the bar's length in quarters, its key as {tonicClass, mode} where it is one, major or minor, else null, its notes as
[start, end, midi] in quarters from the first bar line; an upbeat lies before 0. Tunes that change their metre, or whose bars are too
long, are left out.
"""
import argparse
import glob
import json
import math
import os
import sys

import music21

# By folder of the corpus. What each is for is said in bench/src/rhythm/tunes.ts.
COLLECTIONS = ["ryansMammoth", "oneills1850", "airdsAirs", "miscFolk", "nottingham-dataset"]
LEAST_BARS = 6


def key_of(part):
    keys = {(key.tonic.pitchClass, key.mode) for key in part.recurse().getElementsByClass(music21.key.Key)}
    if len(keys) != 1:
        return None
    tonic, mode = keys.pop()
    return {"tonicClass": tonic, "mode": mode} if mode in ("major", "minor") else None


def melody(score):
    """Notes in quarters from the first bar line, or None where they cannot be told."""
    part = score.parts[0] if score.parts else score
    signatures = part.recurse().getElementsByClass(music21.meter.TimeSignature)
    written = {each.ratioString for each in signatures}
    if len(written) != 1:
        return None
    signature = written.pop()
    bar = signatures[0].barDuration.quarterLength
    measures = list(part.getElementsByClass(music21.stream.Measure))
    if len(measures) < LEAST_BARS:
        return None
    upbeat = measures[0].duration.quarterLength
    first = 1 if 0 < upbeat < bar else 0
    notes, at = [], -float(upbeat) if first else 0.0
    whole = 0
    for index, measure in enumerate(measures):
        length = float(measure.duration.quarterLength)
        if length > bar + 1e-6:
            return None
        if abs(length - bar) < 1e-6:
            whole += 1
            # A part that ends early for an upbeat, and then comes none.
            at = bar * math.ceil(at / bar - 1e-6) if index >= first else at
        for note in measure.recurse().notes:
            if note.duration.isGrace:
                continue
            start = at + float(note.getOffsetInHierarchy(measure))
            end = start + float(note.duration.quarterLength)
            midi = max(p.midi for p in note.pitches)
            if note.tie is not None and note.tie.type in ("stop", "continue") and notes and notes[-1][2] == midi:
                notes[-1][1] = round(end, 5)
            else:
                notes.append([round(start, 5), round(end, 5), midi])
        at += length
    if whole < LEAST_BARS or len(notes) < 2 * LEAST_BARS:
        return None
    return {"metre": signature, "barQuarters": float(bar), "key": key_of(part), "notes": notes}


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", required=True)
    parser.add_argument("--collections", nargs="+", default=COLLECTIONS)
    options = parser.parse_args()
    corpus = os.path.join(os.path.dirname(music21.__file__), "corpus")
    tunes, left = [], 0
    for collection in options.collections:
        before = len(tunes)
        for path in sorted(glob.glob(os.path.join(corpus, collection, "*.abc"))):
            handler = music21.abcFormat.ABCFile()
            handler.open(path)
            try:
                read = handler.read()
            except Exception as error:  # what a file holds that the library cannot read is left out, and said
                print(f"{os.path.basename(path)}: {error}", file=sys.stderr)
                continue
            finally:
                handler.close()
            for each in (read.splitByReferenceNumber().values() if read.definesReferenceNumbers() else [read]):
                try:
                    score = music21.abcFormat.translate.abcToStreamScore(each)
                    found = melody(score)
                except Exception:
                    found = None
                if found is None:
                    left += 1
                    continue
                title = each.getTitle() if hasattr(each, "getTitle") else ""
                tunes.append({"collection": collection, "title": title or "", **found})
        print(f"{collection}: {len(tunes) - before}", flush=True)
    print(f"{left} left out")
    with open(options.out, "w") as file:
        json.dump(tunes, file)
        file.write("\n")


if __name__ == "__main__":
    main()
