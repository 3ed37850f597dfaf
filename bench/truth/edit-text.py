"""Changes a structured text in one known way with Python's own libraries, and prints what was done as JSON.

Called with: the treatment, the older file, where the newer one is to be written, and a seed.
"""

import csv
import io
import json
import random
import sys
import xml.etree.ElementTree as ElementTree

treatment, source, target, seed = sys.argv[1:5]
random.seed(int(seed))
kind, _, what = treatment.partition(" ")
told = {}


def leaves(value, path=()):
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves(inner, path + (key,))
    elif isinstance(value, list):
        for at, inner in enumerate(value):
            yield from leaves(inner, path + (at,))
    else:
        yield path, value


def holder_of(root, path):
    for part in path[:-1]:
        root = root[part]
    return root


def objects(value):
    if isinstance(value, dict):
        yield value
        for inner in value.values():
            yield from objects(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from objects(inner)


def lists(value):
    if isinstance(value, dict):
        for inner in value.values():
            yield from lists(inner)
    elif isinstance(value, list):
        if len(value) > 2:
            yield value
        for inner in value:
            yield from lists(inner)


def edit_json(text):
    root = json.loads(text)
    words = [(p, v) for p, v in leaves(root) if isinstance(v, str) and 3 < len(v) < 40 and isinstance(p[-1], str) and '.' not in p[-1]]
    options = {"indent": 2, "ensure_ascii": False}
    if what == "value":
        path, value = random.choice(words)
        told.update(key=path[-1], old=value, new=value[:-1] + "~")
        holder_of(root, path)[path[-1]] = told["new"]
    elif what == "space":
        path, value = random.choice(words)
        told.update(key=path[-1], old=value, new=value + " ")
        holder_of(root, path)[path[-1]] = told["new"]
    elif what == "type":
        path, value = random.choice(words)
        holder_of(root, path)[path[-1]] = [value]
        told.update(key=path[-1])
    elif what in ("long id", "longer id"):
        # Digits that a double loses: written as text, so that Python need not hold them.
        holder = random.choice(list(objects(root)))
        base = 76561198000000000 if what == "long id" else 18446744073709551615 * 1000
        number = base + random.randrange(1, 99) * 2
        holder["heron id"] = number
        with open(source, "w", encoding="utf-8") as file:
            json.dump(root, file, **options)
        holder["heron id"] = number + 1
        told.update(key="heron id", old=str(number), new=str(number + 1))
    elif what == "renamed":
        holder = random.choice([o for o in objects(root) if 1 < len(o) < 200 and any(isinstance(v, (str, dict)) and len(v) > 3 for v in o.values())])
        key = random.choice([k for k, v in holder.items() if isinstance(v, (str, dict)) and len(v) > 3])
        items = list(holder.items())
        holder.clear()
        for name, value in items:
            holder["heron" if name == key else name] = value
        told.update(old=key, new="heron")
    elif what == "added":
        random.choice(list(objects(root)))["heron"] = 12345
    elif what == "removed":
        holder = random.choice([o for o in objects(root) if 1 < len(o)])
        key = random.choice(list(holder))
        del holder[key]
        told.update(key=key)
    elif what == "inserted":
        all_lists = list(lists(root))
        random.choice(all_lists).insert(0, {"heron": 1})
    elif what == "reversed":
        random.choice([l for l in lists(root) if l != l[::-1]]).reverse()
    elif what == "indent":
        options["indent"] = 7
    elif what == "escapes":
        options = {"indent": None, "ensure_ascii": True, "separators": (",", ":")}
    elif what == "keys":
        options["sort_keys"] = True
    return json.dumps(root, **options)


def edit_csv(text):
    rows = [row for row in csv.reader(io.StringIO(text)) if row]
    head, body = rows[0], rows[1:]
    quoting = csv.QUOTE_MINIMAL
    delimiter = ","
    at = random.randrange(len(body))
    column = random.randrange(1, len(head))
    if what == "cell":
        told.update(column=head[column], old=body[at][column], new=body[at][column] + "7")
        body[at][column] = told["new"]
    elif what == "column renamed":
        told.update(old=head[column], new="heron")
        head[column] = "heron"
    elif what == "columns swapped":
        other = 1 + column % (len(head) - 1)
        for row in rows:
            row[column], row[other] = row[other], row[column]
    elif what == "column gone":
        told.update(column=head[column])
        rows = [row[:column] + row[column + 1 :] for row in rows]
        head, body = rows[0], rows[1:]
    elif what == "column new":
        head.append("heron")
        for row in body:
            row.append("2")
    elif what == "row new":
        body.insert(0, ["heron%d" % n for n in range(len(head))])
    elif what == "row gone":
        del body[at]
    elif what == "rows reversed":
        body.reverse()
    elif what == "row moved":
        body.append(body.pop(0))
    elif what == "quoted":
        quoting = csv.QUOTE_ALL
    elif what == "semicolons":
        delimiter = ";"
    out = io.StringIO()
    csv.writer(out, quoting=quoting, delimiter=delimiter, lineterminator="\n").writerows([head] + body)
    return out.getvalue()


def edit_xml(text):
    root = ElementTree.fromstring(text)
    # Python keeps no comments: without them on either side.
    with open(source, "w", encoding="utf-8", newline="") as file:
        file.write(ElementTree.tostring(root, encoding="unicode"))
    elements = [e for e in root.iter() if e is not root]
    with_attributes = [e for e in elements if e.attrib]
    if what == "attribute":
        element = random.choice(with_attributes)
        name = random.choice(list(element.attrib))
        told.update(key=name.split("}")[-1], old=element.attrib[name], new=element.attrib[name] + "7")
        element.attrib[name] = told["new"]
    elif what == "text":
        element = random.choice([e for e in elements if e.text and e.text.strip() and len(e) == 0])
        told.update(new=element.text + "7")
        element.text = told["new"]
    elif what == "removed":
        parent = random.choice([e for e in root.iter() if len(e) > 0])
        parent.remove(random.choice(list(parent)))
    elif what == "inserted":
        parent = random.choice([e for e in root.iter() if len(e) > 1])
        fresh = ElementTree.Element("heron")
        fresh.text = "stands"
        parent.insert(0, fresh)
    elif what == "attributes turned":
        for element in root.iter():
            items = list(element.attrib.items())[::-1]
            element.attrib.clear()
            element.attrib.update(items)
    elif what == "long tags":
        return ElementTree.tostring(root, encoding="unicode", short_empty_elements=False)
    return ElementTree.tostring(root, encoding="unicode")


def edit_lines(text):
    lines = text.split("\n")
    full = [n for n, line in enumerate(lines) if len(line.split()) > 3 and lines.count(line) == 1]
    at = random.choice(full)
    told.update(line=at + 1)
    if what == "word":
        words = lines[at].split(" ")
        place = random.choice([n for n, word in enumerate(words) if word.isalpha()] or [0])
        told.update(old=words[place], new="heron")
        words[place] = "heron"
        lines[at] = " ".join(words)
    elif what == "line new":
        lines.insert(at, "the heron stands where nobody looks")
    elif what == "line gone":
        told.update(old=lines[at])
        del lines[at]
    elif what == "line moved":
        lines.insert(len(lines) - 2, lines.pop(at))
    elif what == "spaces":
        lines[at] += "  "
    elif what == "line ends":
        return "\r\n".join(lines)
    return "\n".join(lines)


with open(source, encoding="utf-8", newline="") as file:
    before = file.read()
after = {"json": edit_json, "csv": edit_csv, "xml": edit_xml, "lines": edit_lines}[kind](before)
with open(target, "w", encoding="utf-8", newline="") as file:
    file.write(after)
print(json.dumps(told))
