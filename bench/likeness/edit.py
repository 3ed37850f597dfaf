"""Changes files as an update of a game does, in a way drawn by lot, and prints what was done, a line for each.

Reads lines of JSON: kind (picture, sound or text), in, out, seed and, where it is not to be drawn by lot, the edit. What cannot be
changed is told as null.
"""

import json
import os
import random
import subprocess
import sys

from PIL import Image, ImageDraw, ImageEnhance, ImageFilter, ImageOps

Image.MAX_IMAGE_PIXELS = 64_000_000


def marked(picture):
    """A badge over up to a sixth of it."""
    width, height = (max(2, int(side * random.uniform(0.2, 0.4))) for side in picture.size)
    x, y = random.randint(0, picture.width - width), random.randint(0, picture.height - height)
    colour = tuple(random.randint(0, 255) for _ in range(3)) + (255,)
    ImageDraw.Draw(picture).rectangle([x, y, x + width - 1, y + height - 1], fill=colour)
    return picture


def on_colours(change):
    """A change of the colours that leaves alone what is covered."""

    def made(picture):
        alpha = picture.getchannel("A")
        result = change(picture.convert("RGB")).convert("RGBA")
        result.putalpha(alpha)
        return result

    return made


def hue_turned(picture):
    turned = random.choice([-1, 1]) * random.randint(12, 40)
    hue, saturation, value = picture.convert("HSV").split()
    return Image.merge("HSV", (hue.point(lambda at: (at + turned) % 256), saturation, value)).convert("RGB")


def cropped(picture):
    left, top, right, bottom = (random.uniform(0, 0.08) for _ in range(4))
    width, height = picture.size
    box = (int(left * width), int(top * height), width - int(right * width), height - int(bottom * height))
    return picture.crop((box[0], box[1], max(box[0] + 1, box[2]), max(box[1] + 1, box[3])))


def scaled(picture):
    share = random.choice([0.5, 0.75, 1.5, 2])
    return picture.resize(tuple(max(1, round(side * share)) for side in picture.size), Image.LANCZOS)


pictures = {
    "marked": marked,
    "brighter": on_colours(lambda picture: ImageEnhance.Brightness(picture).enhance(random.uniform(1.1, 1.4))),
    "darker": on_colours(lambda picture: ImageEnhance.Brightness(picture).enhance(random.uniform(0.6, 0.9))),
    "contrast": on_colours(lambda picture: ImageEnhance.Contrast(picture).enhance(random.choice([0.7, 1.3]))),
    "recoloured": on_colours(hue_turned),
    "sharpened": on_colours(lambda picture: picture.filter(ImageFilter.SHARPEN)),
    "blurred": on_colours(lambda picture: picture.filter(ImageFilter.GaussianBlur(1))),
    "cropped": cropped,
    "scaled": scaled,
    "border": on_colours(lambda picture: ImageOps.expand(ImageOps.crop(picture, 1), 1, "black")),
}


def edit_picture(source, to, edit):
    edit = edit or random.choice(list(pictures))
    with Image.open(source) as picture:
        if picture.width * picture.height > 20_000_000:
            return None
        pictures[edit](picture.convert("RGBA")).save(to, "PNG", compress_level=1)
    return edit


def seconds_of(path):
    return float(subprocess.run(["soxi", "-D", path], capture_output=True, check=True, text=True).stdout)


def edit_sound(source, to, edit):
    seconds = seconds_of(source)
    if not 0.05 <= seconds <= 120:
        return None
    share = random.uniform(0.1, 0.4)
    effects = {
        "end cut off": ["trim", "0", f"{seconds * (1 - share)}"],
        "beginning cut off": ["trim", f"{seconds * share / 3}"],
        "silence appended": ["pad", "0", f"{seconds * share}"],
        "silence in front": ["pad", f"{seconds * share / 3}"],
        "repeated in part": ["repeat", "1", "trim", "0", f"{seconds * (1 + share)}"],
        "quieter": ["gain", f"{-random.uniform(3, 9)}"],
        "less treble": ["lowpass", str(random.choice([3000, 4500, 6000]))],
        "more bass": ["gain", "-6", "bass", "+6"],
        "higher": ["gain", "-3", "pitch", str(random.choice([-100, -50, 50, 100]))],
        "faster": ["gain", "-3", "tempo", str(random.choice([0.92, 1.08]))],
        "echo": ["gain", "-6", "reverb", "30"],
        "faded": ["fade", "0", f"{seconds}", f"{seconds * share}"],
    }
    edit = edit or random.choice(list(effects))
    subprocess.run(["sox", "-G", source, "-b", "16", to, *effects[edit]], check=True, capture_output=True)
    return edit


def edit_text(source, to, edit):
    with open(source, "rb") as file:
        lines = file.read(4_000_000).decode("utf-8", "replace").split("\n")
    if len(lines) < 4:
        return None
    count = max(1, int(len(lines) * random.uniform(0.02, 0.25)))
    edit = edit or random.choice(["lines changed", "lines removed", "lines added", "some of each"])
    for _ in range(count):
        at = random.randrange(len(lines))
        kind = random.choice(["changed", "removed", "added"]) if edit == "some of each" else edit.split()[1]
        if kind == "removed" and len(lines) > 2:
            del lines[at]
        elif kind == "added":
            lines.insert(at, lines[at].replace("1", "4").replace("e", "a") + " more")
        else:
            words = lines[at].split(" ")
            words[random.randrange(len(words))] = random.choice(["heron", "17", "lantern", "true", "0.25"])
            lines[at] = " ".join(words)
    with open(to, "w", encoding="utf-8") as file:
        file.write("\n".join(lines))
    return edit


edits = {"picture": edit_picture, "sound": edit_sound, "text": edit_text}

for line in sys.stdin:
    wanted = json.loads(line)
    random.seed(wanted["seed"])
    try:
        done = edits[wanted["kind"]](wanted["in"], wanted["out"], wanted.get("edit"))
    except Exception:
        done = None
    if done is None and os.path.exists(wanted["out"]):
        os.unlink(wanted["out"])
    print(json.dumps(done), flush=True)
