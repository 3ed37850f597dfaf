"""Changes pictures in known ways with Pillow, and prints what was done as JSON, a line for each.

Called with: a folder for the results, how many pairs of each treatment, then the pictures to begin with.
"""

import json
import os
import random
import sys

from PIL import Image, ImageChops, ImageCms, ImageDraw, ImageEnhance, ImageFilter, ImageOps, ImageStat
from PIL.PngImagePlugin import PngInfo

folder, each = sys.argv[1], int(sys.argv[2])
paths = sys.argv[3:]
random.seed(1)


def opened(path):
    picture = Image.open(path).convert("RGB")
    picture.thumbnail((400, 400))
    # No two sides alike, so that they cannot be mixed up.
    return picture.crop((0, 0, picture.width - picture.width % 4, picture.height * 9 // 10 // 4 * 4))


def has_detail(picture):
    """Whether there is something fine in it, which can be lost."""
    coarse = detail_lost(picture)[0]
    return sum(ImageStat.Stat(ImageChops.difference(picture, coarse)).mean) > 2


def box_of(picture, share=6):
    width, height = random.randint(12, picture.width // share), random.randint(12, picture.height // share)
    return random.randint(0, picture.width - width), random.randint(0, picture.height - height), width, height


def painted(picture, x, y, width, height):
    """Every pixel of the box becomes another one, so that its edges are known."""
    copy = picture.copy()
    part = ImageOps.invert(picture.crop((x, y, x + width, y + height)))
    pixels = part.load()
    for row in range(part.height):
        for column in range(part.width):
            before = picture.getpixel((x + column, y + row))
            if max(abs(a - b) for a, b in zip(before, pixels[column, row])) < 60:
                pixels[column, row] = tuple((value + 128) % 256 for value in before)
    copy.paste(part, (x, y))
    return copy


def one_pixel(picture):
    x, y = random.randrange(picture.width), random.randrange(picture.height)
    copy = picture.copy()
    copy.putpixel((x, y), tuple((value + 128) % 256 for value in picture.getpixel((x, y))))
    return copy, {"x": x, "y": y}


def box(picture):
    x, y, width, height = box_of(picture)
    return painted(picture, x, y, width, height), {"x": x, "y": y, "width": width, "height": height}


def crop(picture):
    x, y = random.randint(5, picture.width // 4), random.randint(5, picture.height // 4)
    width, height = picture.width * 2 // 3, picture.height * 2 // 3
    told = {"x": x, "y": y, "width": width, "height": height}
    return picture.crop((x, y, x + width, y + height)), told


def rolled(picture):
    x, y = random.randint(9, picture.width // 3), random.randint(9, picture.height // 3)
    return ImageChops.offset(picture, x, y), {"x": x, "y": y}


def shifted(picture):
    x, y = random.randint(9, picture.width // 5), random.randint(9, picture.height // 5)
    copy = Image.new("RGB", picture.size, (20, 30, 40))
    copy.paste(picture, (x, y))
    return copy, {"x": x, "y": y}


def scaled(x, y):
    def make(picture):
        size = round(picture.width * x), round(picture.height * y)
        return picture.resize(size, Image.LANCZOS), {"width": size[0], "height": size[1]}

    return make


def plain(make):
    return lambda picture: (make(picture), {})


def channels(order):
    return lambda picture: (Image.merge("RGB", [picture.split()[at] for at in order]), {})


def noisy(picture):
    noise = Image.effect_noise(picture.size, 40).convert("RGB")
    return ImageChops.add(picture, noise, 1, -128), {}


def detail_lost(picture):
    small = picture.resize((picture.width // 2, picture.height // 2), Image.LANCZOS)
    return small.resize(picture.size, Image.LANCZOS), {}


def faded(picture):
    copy = picture.convert("RGBA")
    copy.putalpha(128)
    return copy, {}


def inside_loss(picture):
    x, y, width, height = box_of(picture, 4)
    return painted(picture, x, y, width, height), {"x": x, "y": y, "width": width, "height": height}


def save(picture, name, **options):
    path = os.path.join(folder, name)
    picture.save(path, **options)
    return path


def moving(name, duration, pictures):
    first, *others = [picture.convert("P") for picture in pictures]
    return save(first, name, save_all=True, append_images=others, duration=duration, loop=0, disposal=1)


treatments = {
    "PNG packed less": (plain(lambda p: p), "png", {"compress_level": 1}),
    "WebP without loss": (plain(lambda p: p), "webp", {"lossless": True}),
    "JPEG, quality 95": (plain(lambda p: p), "jpg", {"quality": 95, "subsampling": 0}),
    "JPEG, quality 85": (plain(lambda p: p), "jpg", {"quality": 85, "subsampling": 0}),
    "WebP, quality 92": (plain(lambda p: p), "webp", {"quality": 92}),
    "JPEG, quality 20": (plain(lambda p: p), "jpg", {"quality": 20}),
    "one pixel": (one_pixel, "png", {}),
    "a box": (box, "png", {}),
    "a box, packed with loss": (inside_loss, "jpg", {"quality": 88, "subsampling": 0}),
    "a part cut out": (crop, "png", {}),
    "rolled": (rolled, "png", {}),
    "shifted": (shifted, "png", {}),
    "half the size": (scaled(0.5, 0.5), "png", {}),
    "twice the size": (scaled(2, 2), "png", {}),
    "stretched to the side": (scaled(1.3, 1), "png", {}),
    "halved and enlarged again": (detail_lost, "png", {}),
    "blurred": (plain(lambda p: p.filter(ImageFilter.GaussianBlur(2))), "png", {}),
    "brighter": (plain(lambda p: ImageEnhance.Brightness(p).enhance(1.25)), "png", {}),
    "darker": (plain(lambda p: ImageEnhance.Brightness(p).enhance(0.7)), "png", {}),
    "grey": (plain(lambda p: p.convert("L")), "png", {}),
    "negative": (plain(ImageOps.invert), "png", {}),
    "red and blue swapped": (channels((2, 1, 0)), "png", {}),
    "mirrored left to right": (plain(ImageOps.mirror), "png", {}),
    "upside down": (plain(ImageOps.flip), "png", {}),
    "turned by 180": (plain(lambda p: p.rotate(180)), "png", {}),
    "turned by 90": (plain(lambda p: p.transpose(Image.ROTATE_270)), "png", {}),
    "half transparent": (faded, "png", {}),
    "noise": (noisy, "png", {}),
    "sixteen colours": (plain(lambda p: p.quantize(16, dither=Image.NONE).convert("RGB")), "png", {}),
    "a border": (plain(lambda p: ImageOps.expand(p, 12, (10, 200, 30))), "png", {}),
}

def has_colour(picture):
    return ImageStat.Stat(picture.convert("HSV")).mean[1] > 40


coloured = [path for path in paths if has_colour(opened(path))]
detailed = [path for path in paths if has_detail(opened(path))]

for group, (make, extension, options) in treatments.items():
    chosen = paths
    if group in ("halved and enlarged again", "blurred", "JPEG, quality 20"):
        chosen = detailed
    elif group in ("grey", "red and blue swapped", "sixteen colours"):
        chosen = coloured
    for number in range(each):
        path = chosen[(number * 7 + len(group)) % len(chosen)]
        picture = opened(path)
        changed, told = make(picture)
        old = save(picture, "%s-%d-old.png" % (group, number))
        new = save(changed, "%s-%d-new.%s" % (group, number, extension), **options)
        told.update(group=group, source=os.path.basename(path), old=old, new=new)
        print(json.dumps(told))

for number in range(each):
    path, other = paths[(number * 5) % len(paths)], paths[(number * 5 + 11) % len(paths)]
    old = opened(path)
    new = opened(other).resize(old.size)
    pair = save(old, "another-%d-old.png" % number), save(new, "another-%d-new.png" % number)
    print(json.dumps({"group": "another picture", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))

    exif = Image.Exif()
    exif[0x0112] = 6
    pair = save(old, "turned-%d-old.jpg" % number, quality=90), os.path.join(folder, "turned-%d-new.jpg" % number)
    old.save(pair[1], quality=90, exif=exif)
    print(json.dumps({"group": "orientation says turned", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))

    gamma = PngInfo()
    gamma.add(b"gAMA", (100000).to_bytes(4, "big"))
    pair = save(old, "gamma-%d-old.png" % number), save(old, "gamma-%d-new.png" % number, pnginfo=gamma)
    print(json.dumps({"group": "another gamma", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))

    # The profile of sRGB under another name, with red and green in each other's place.
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    for coding in ("ascii", "utf-16-be"):
        profile = profile.replace("sRGB".encode(coding), "wide".encode(coding))
    profile = profile.replace(b"rXYZ", b"tXYZ").replace(b"gXYZ", b"rXYZ").replace(b"tXYZ", b"gXYZ")
    pair = save(old, "profile-%d-old.png" % number), save(old, "profile-%d-new.png" % number, icc_profile=profile)
    print(json.dumps({"group": "another colour profile", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))

    frames = [old.resize((120, 100)), ImageOps.mirror(old).resize((120, 100)), ImageOps.flip(old).resize((120, 100))]
    pair = moving("frames-%d-old.gif" % number, 100, frames), moving("frames-%d-new.gif" % number, 200, frames)
    print(json.dumps({"group": "frames shown for longer", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))

    other_frames = [frames[0], painted(frames[1], 30, 20, 40, 30), frames[2]]
    pair = moving("frame-%d-old.gif" % number, 100, frames), moving("frame-%d-new.gif" % number, 100, other_frames)
    print(json.dumps({"group": "the second frame", "source": os.path.basename(path), "old": pair[0], "new": pair[1]}))
