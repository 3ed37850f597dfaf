import { StreamLanguage, type StreamParser } from '@codemirror/language';
import type { Extension } from '@codemirror/state';
import { extensionOf } from '../../../core/kinds/formats.ts';

const legacy = (parser: StreamParser<unknown>): Extension => StreamLanguage.define(parser);

/** Grammars by format, and for plain texts by extension: each comes when it is needed. */
const languages: Readonly<Record<string, () => Promise<Extension>>> = {
  json: async () => (await import('@codemirror/lang-json')).json(),
  xml: async () => (await import('@codemirror/lang-xml')).xml(),
  yaml: async () => (await import('@codemirror/lang-yaml')).yaml(),
  ini: async () => legacy((await import('@codemirror/legacy-modes/mode/properties')).properties),
  strings: async () => legacy((await import('@codemirror/legacy-modes/mode/properties')).properties),
  po: async () => legacy((await import('@codemirror/legacy-modes/mode/properties')).properties),
  lua: async () => legacy((await import('@codemirror/legacy-modes/mode/lua')).lua),
  toml: async () => legacy((await import('@codemirror/legacy-modes/mode/toml')).toml),
  js: async () => legacy((await import('@codemirror/legacy-modes/mode/javascript')).javascript),
  py: async () => legacy((await import('@codemirror/legacy-modes/mode/python')).python),
  css: async () => legacy((await import('@codemirror/legacy-modes/mode/css')).css),
  c: async () => legacy((await import('@codemirror/legacy-modes/mode/clike')).c),
  sh: async () => legacy((await import('@codemirror/legacy-modes/mode/shell')).shell),
};

/** Extensions that are written in one of these languages. */
const sameAs: Readonly<Record<string, string>> = {
  ...{ mjs: 'js', ts: 'js', h: 'c', cpp: 'c', hpp: 'c', cs: 'c', java: 'c', glsl: 'c', vert: 'c', frag: 'c' },
  ...{
    hlsl: 'c',
    fx: 'c',
    shader: 'c',
    bash: 'sh',
    html: 'xml',
    svg: 'xml',
    dae: 'xml',
    tmx: 'xml',
    gltf: 'json',
  },
  ...{ material: 'xml', layout: 'xml' },
};

/** Which language a text is coloured as; null for none. */
export function languageOf(format: string, path: string): (() => Promise<Extension>) | null {
  const extension = extensionOf(path).toLowerCase();
  const named = Object.hasOwn(languages, format) ? format : (sameAs[extension] ?? extension);
  return Object.hasOwn(languages, named) ? (languages[named] ?? null) : null;
}
