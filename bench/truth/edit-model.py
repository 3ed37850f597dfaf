"""Changes models in one known way, as text and as JSON, and prints what was done as JSON.

Called with: the treatment, the older file, where the newer one is to be written, and a seed. The older one is written anew
where that makes both sides alike in all else.
"""

import json
import math
import random
import sys

treatment, source, target, seed = sys.argv[1:5]
random.seed(int(seed))
kind, _, what = treatment.partition(" ")
told = {}


def number(text):
    return "%.9g" % text


def edit_obj(text):
    lines = text.replace("\r\n", "\n").split("\n")
    points = [n for n, line in enumerate(lines) if line.startswith("v ")]
    coordinates = [[float(word) for word in lines[n].split()[1:4]] for n in points]
    low = [min(c[axis] for c in coordinates) for axis in range(3)]
    high = [max(c[axis] for c in coordinates) for axis in range(3)]
    size = math.dist(low, high)
    faces = [n for n, line in enumerate(lines) if line.startswith("f ")]
    groups = [n for n, line in enumerate(lines) if line.startswith("g ")]
    materials = [n for n, line in enumerate(lines) if line.startswith("usemtl ")]
    used = sorted({int(word.split("/")[0]) for n in faces for word in lines[n].split()[1:]})

    def move(change):
        for n, c in zip(points, coordinates):
            lines[n] = "v " + " ".join(number(value) for value in change(c))

    if what == "comments":
        lines.insert(0, "# written anew")
        lines = [line.rstrip() + " " if line.startswith("f ") else line for line in lines]
    elif what == "faces in another order":
        block = []
        for n in faces:
            if block and n != block[-1] + 1:
                break
            block.append(n)
        shuffled = [lines[n] for n in block]
        random.shuffle(shuffled)
        for n, line in zip(block, shuffled):
            lines[n] = line
    elif what == "one vertex moved":
        at = random.choice(used) - 1
        by = size * 0.04
        coordinates[at][1] += by
        lines[points[at]] = "v " + " ".join(number(value) for value in coordinates[at])
        told.update(metres=by)
    elif what == "twice as large":
        move(lambda c: [value * 2 for value in c])
    elif what == "moved":
        move(lambda c: [c[0] + size, c[1], c[2]])
        told.update(metres=size)
    elif what == "turned":
        move(lambda c: [-c[2], c[1], c[0]])
        lines = [turned_normal(line) for line in lines]
    elif what == "mirrored":
        move(lambda c: [-c[0], c[1], c[2]])
        lines = [mirrored_normal(line) for line in lines]
        for n in faces:
            words = lines[n].split()
            lines[n] = "f " + " ".join(words[:0:-1])
    elif what == "another material":
        names = sorted({lines[n][7:].strip() for n in materials})
        n = random.choice(materials)
        old = lines[n][7:].strip()
        new = random.choice([name for name in names if name != old])
        lines[n] = "usemtl " + new
        told.update(old=old, new=new)
    elif what == "materials swapped":
        names = sorted({lines[n][7:].strip() for n in materials})
        one, other = random.sample(names, 2)
        for n in materials:
            name = lines[n][7:].strip()
            if name in (one, other):
                lines[n] = "usemtl " + (other if name == one else one)
        told.update(old=one, new=other)
    elif what == "winding reversed":
        for n in faces:
            lines[n] = "f " + " ".join(lines[n].split()[:0:-1])
    elif what == "part renamed":
        n = random.choice(groups)
        told.update(old=lines[n][2:].strip(), new="heron")
        lines[n] = "g heron"
    elif what == "part gone":
        ends = groups + [len(lines)]
        at = random.randrange(len(groups))
        told.update(old=lines[groups[at]][2:].strip())
        body = lines[groups[at] : ends[at + 1]]
        lines[groups[at] : ends[at + 1]] = [line for line in body if not line.startswith(("f ", "g ", "usemtl ", "s "))]
    elif what == "uvs shifted":
        for n, line in enumerate(lines):
            if line.startswith("vt "):
                words = line.split()
                words[1] = number(float(words[1]) + 0.25)
                lines[n] = " ".join(words)
    elif what == "rounded":
        step = 10 ** (math.floor(math.log10(size)) - 6)
        move(lambda c: [round(value / step) * step for value in c])
    return "\n".join(lines)


def turned_normal(line):
    if not line.startswith("vn "):
        return line
    x, y, z = (float(word) for word in line.split()[1:4])
    return "vn " + " ".join(number(value) for value in (-z, y, x))


def mirrored_normal(line):
    if not line.startswith("vn "):
        return line
    x, y, z = (float(word) for word in line.split()[1:4])
    return "vn " + " ".join(number(value) for value in (-x, y, z))


def edit_gltf(text):
    root = json.loads(text)
    options = {"indent": 2}

    def named(kind):
        names = [item.get("name") for item in root[kind]]
        return random.choice([item for item in root[kind] if item.get("name") and names.count(item["name"]) == 1])

    def some(name):
        return random.choice(root[name])

    if what == "indent":
        options = {"separators": (",", ":")}
    elif what == "extras":
        some("nodes")["extras"] = {"heron": 7}
        told.update(new="heron")
    elif what == "extras changed":
        root["nodes"][0]["extras"] = {"heron": 7}
        with open(source, "w", encoding="utf-8") as file:
            json.dump(root, file)
        root["nodes"][0]["extras"] = {"heron": 8}
        told.update(old="7", new="8")
    elif what == "node renamed":
        node = named("nodes")
        told.update(old=node["name"], new="heron")
        node["name"] = "heron"
    elif what == "mesh renamed":
        mesh = named("meshes")
        told.update(old=mesh["name"], new="heron")
        mesh["name"] = "heron"
    elif what == "material renamed":
        material = named("materials")
        told.update(old=material["name"], new="heron")
        material["name"] = "heron"
    elif what == "unused material":
        root["materials"].append({"name": "heron", "pbrMetallicRoughness": {"metallicFactor": 0.5}})
    elif what == "rougher":
        some("materials").setdefault("pbrMetallicRoughness", {})["roughnessFactor"] = 0.123
    elif what == "both sides":
        material = some("materials")
        material["doubleSided"] = not material.get("doubleSided", False)
    elif what == "image renamed":
        image = random.choice([i for i in root["images"]])
        image["name"] = "heron"
    elif what == "camera":
        root.setdefault("cameras", []).append(
            {"name": "heron", "type": "perspective", "perspective": {"yfov": 0.7, "znear": 0.1}}
        )
        root["nodes"].append({"name": "heron camera", "camera": len(root["cameras"]) - 1})
        root["scenes"][0]["nodes"].append(len(root["nodes"]) - 1)
    elif what == "camera changed":
        root.setdefault("cameras", []).append(
            {"name": "heron", "type": "perspective", "perspective": {"yfov": 0.7, "znear": 0.1}}
        )
        root["nodes"].append({"name": "heron camera", "camera": len(root["cameras"]) - 1})
        root["scenes"][0]["nodes"].append(len(root["nodes"]) - 1)
        with open(source, "w", encoding="utf-8") as file:
            json.dump(root, file)
        root["cameras"][-1]["perspective"]["yfov"] = 0.9
    elif what == "node moved":
        node = random.choice([n for n in root["nodes"] if "mesh" in n and "matrix" not in n])
        place = node.get("translation", [0, 0, 0])
        node["translation"] = [place[0] + 0.5, place[1], place[2]]
    elif what == "clip renamed":
        animation = random.choice(root["animations"])
        told.update(old=animation.get("name", ""), new="heron")
        animation["name"] = "heron"
    elif what == "clip gone":
        animation = root["animations"].pop()
        if not root["animations"]:
            del root["animations"]
        told.update(old=animation.get("name", ""))
    return json.dumps(root, **options)


with open(source, encoding="utf-8", newline="", errors="replace") as file:
    before = file.read()
after = {"obj": edit_obj, "gltf": edit_gltf}[kind](before)
with open(target, "w", encoding="utf-8", newline="") as file:
    file.write(after)
print(json.dumps(told))
