import type { BundleView } from '@tally/contract';
import type { Command } from 'commander';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, say, table, WHO, WrongUse } from '../cli/output.js';
import type { House } from '../house/index.js';
import { idsOf } from './asking.js';
import { changeBundle, emptyBundle, endBundle, fillBundle, makeBundle } from './bundles.js';
import { endStanding, keepQuestion, lookAtStanding, standingViews } from './standing.js';
import { allBundles } from './store/bundles.js';

/** `tally bundle` and `tally standing`. */
export function addBundleCommands(program: Command, frame: Frame<House>): void {
  const bundle = program.command('bundle').description('named, virtual groups of items');
  const withBundle = (name: string, act: (house: House, bundle: BundleView) => Promise<string>) =>
    frame.withHouse(async (house) => {
      say(await act(house, await bundleNamed(house, name)));
      return EXIT.done;
    });
  bundle
    .command('list')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) =>
      frame.withHouse(async (house) => {
        const bundles = await allBundles(house.db);
        const names = new Map(bundles.map(({ id, name }) => [id, name]));
        if (options.json) bundles.forEach(jsonLine);
        else
          table(
            ['bundle', 'items', 'in', 'made by'],
            bundles.map(({ name, items, parentId, madeBy }) => [name, items, names.get(parentId ?? 0) ?? '', madeBy]),
          );
        return EXIT.done;
      }),
    );
  bundle
    .command('make')
    .argument('<name>')
    .option('--in <bundle>', 'the bundle around it')
    .action((name: string, options: { in?: string }) =>
      frame.withHouse(async (house) => {
        const parentId = options.in === undefined ? null : (await bundleNamed(house, options.in)).id;
        const made = await makeBundle(house, { name, parentId, note: '' }, WHO);
        say(`Bundle “${made.name}” made.`);
        return EXIT.done;
      }),
    );
  bundle
    .command('add')
    .argument('<name>')
    .argument('<question...>', 'everything that answers it goes in')
    .action((name: string, words: string[]) =>
      withBundle(name, async (house, { id }) => {
        const { changed, bundle: now } = await fillBundle(house, id, { question: words.join(' ') }, WHO);
        return `${changed} put into “${now.name}”: ${now.items} now.`;
      }),
    );
  bundle
    .command('without')
    .argument('<name>')
    .argument('<question...>', 'everything that answers it goes out')
    .action((name: string, words: string[]) =>
      withBundle(name, async (house, { id }) => {
        const ids = await idsOf(house, `bundle:${id} ${words.join(' ')}`);
        const { changed, bundle: now } = await emptyBundle(house, id, ids, WHO);
        return `${changed} taken out of “${now.name}”: ${now.items} now.`;
      }),
    );
  bundle
    .command('rename')
    .argument('<name>')
    .argument('<new name>')
    .action((name: string, to: string) =>
      withBundle(
        name,
        async (house, { id, revision }) => `It is “${(await changeBundle(house, id, { name: to, revision }, WHO)).name}” now.`,
      ),
    );
  bundle
    .command('put')
    .description('puts a bundle into another, or into none')
    .argument('<name>')
    .argument('[into]')
    .action((name: string, into: string | undefined) =>
      withBundle(name, async (house, { id, revision }) => {
        const parentId = into === undefined ? null : (await bundleNamed(house, into)).id;
        await changeBundle(house, id, { parentId, revision }, WHO);
        return `“${name}” stands in ${into === undefined ? 'no other bundle' : `“${into}”`} now.`;
      }),
    );
  bundle
    .command('remove')
    .argument('<name>')
    .description('removes a bundle, and no item')
    .action((name: string) =>
      withBundle(name, async (house, { id, items }) => {
        await endBundle(house, id, WHO);
        return `Bundle “${name}” removed; its ${items} items stay where they are.`;
      }),
    );

  const standing = program.command('standing').description('questions that are kept');
  standing
    .command('list')
    .option('--json', 'one JSON object a line')
    .action((options: { json?: boolean }) =>
      frame.withHouse(async (house) => {
        const views = await standingViews(house);
        if (options.json) views.forEach(jsonLine);
        else
          table(
            ['name', 'items', 'new', 'question'],
            views.map(({ name, items, fresh, question }) => [name, items, fresh, question.text]),
          );
        return EXIT.done;
      }),
    );
  standing
    .command('keep')
    .argument('<name>')
    .argument('<question...>')
    .option('--quiet', 'it does not tell the desk')
    .action((name: string, words: string[], options: { quiet?: boolean }) =>
      frame.withHouse(async (house) => {
        const kept = await keepQuestion(house, { name, question: words.join(' '), tells: !options.quiet }, WHO);
        say(`Kept “${kept.name}”: ${kept.question.sentence}: ${kept.items} items.`);
        return EXIT.done;
      }),
    );
  for (const [act, does] of [
    ['seen', lookAtStanding],
    ['remove', (house: House, id: number) => endStanding(house, id, WHO)],
  ] as const)
    standing
      .command(act)
      .argument('<name>')
      .action((name: string) =>
        frame.withHouse(async (house) => {
          const one = (await standingViews(house)).find((view) => view.name.toLowerCase() === name.toLowerCase());
          if (!one) throw new WrongUse(`There is no standing question “${name}”.`);
          await does(house, one.id);
          return EXIT.done;
        }),
      );
}

async function bundleNamed(house: House, name: string): Promise<BundleView> {
  const bundle = (await allBundles(house.db)).find((one) => one.name.toLowerCase() === name.toLowerCase());
  if (!bundle) throw new WrongUse(`There is no bundle “${name}”.`);
  return bundle;
}
