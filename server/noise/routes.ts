import { Hono } from 'hono';
import { z } from 'zod';
import { noiseRulesSchema, noiseTestSchema, type NoiseTrial } from '../../contract/noise.ts';
import { spanSchema } from '../../contract/pass.ts';
import { foldNoise } from '../../core/findings/noise.ts';
import { findBuild } from '../builds/builds.ts';
import { factsOfFindings, sentenceOfFinding } from '../findings/span-view.ts';
import { readBody, readQuery } from '../http/read-request.ts';
import type { ServerContext } from '../http/server-context.ts';
import { readRules, saveRules } from './rules.ts';

const exampleCount = 8;
const ofTitle = z.object({ title: z.coerce.number().int() });

/** Rules that fold findings away, by title; a rule can be tried on a span before it is kept. */
export function noiseRoutes({ pool, spans }: ServerContext): Hono {
  const routes = new Hono();

  routes.get('/noise', async (context) =>
    context.json(await readRules(pool, readQuery(context, ofTitle).title)),
  );

  routes.put('/noise', async (context) => {
    const { title, rules } = await readBody(context, ofTitle.extend({ rules: noiseRulesSchema }));
    return context.json(await saveRules(pool, title, rules));
  });

  routes.post('/noise/try', async (context) => {
    const { channel, from, to, test } = await readBody(context, spanSchema.extend({ test: noiseTestSchema }));
    const view = await spans.view(await findBuild(pool, channel, from), await findBuild(pool, channel, to));
    const rule = { key: 'trial', name: 'trial', isOn: true, isBuiltIn: false, test };
    const { ruleOf } = foldNoise(view.findings, [rule], view.noiseFacts);
    const fitting = view.findings.filter((_, at) => ruleOf[at] === 0);
    const alone = view.findings.filter((_, at) => ruleOf[at] === 0 && view.ruleOf[at] === -1);
    const shown = (alone.length > 0 ? alone : fitting).slice(0, exampleCount);
    const factsOf = await factsOfFindings(pool, shown);
    const trial: NoiseTrial = {
      fits: fitting.length,
      alone: alone.length,
      examples: shown.map((finding) => ({
        path: finding.path,
        status: finding.status,
        evidence: sentenceOfFinding(finding, view.judgedOf(finding), factsOf(finding)),
      })),
    };
    return context.json(trial);
  });

  return routes;
}
