import {
  Assignment,
  BodyView,
  ClearanceView,
  ClearAnswer,
  LetGoAnswer,
  Contributor,
  Desk,
  EventView,
  FileAnswer,
  HandInChoices,
  HandInLinkView,
  HandInView,
  Id,
  IntakeSummary,
  ItemDetails,
  ItemsAnswer,
  KeptReceipt,
  LendingList,
  LoanHistory,
  LogCalendar,
  LogPage,
  PlaceView,
  PlanView,
  RestoreAnswer,
  RuleMaterial,
  RulesAnswer,
  ScanAnswer,
  Session,
  SoundWave,
  ThingKey,
} from '@tally/contract';
import { z } from 'zod';

const made = z.object({ id: Id });

/** What the server answers, by method and path: the contract's schema for each. */
const ANSWERS: readonly (readonly [method: string, path: RegExp, answer: z.ZodType])[] = [
  ['GET', /^\/api\/session$/, Session],
  ['POST', /^\/api\/session$/, Session],
  ['GET', /^\/api\/desk$/, Desk],
  ['GET', /^\/api\/places$/, z.array(PlaceView)],
  ['GET', /^\/api\/contributors$/, z.array(Contributor)],
  ['POST', /^\/api\/(contributors|assignments)$/, made],
  ['GET', /^\/api\/assignments$/, z.array(Assignment)],
  ['GET', /^\/api\/rules$/, RulesAnswer],
  ['POST', /^\/api\/rules$/, z.object({ revision: z.number().int() })],
  ['GET', /^\/api\/rules\/material$/, RuleMaterial],
  ['GET', /^\/api\/labels\/next$/, z.object({ label: z.string() })],
  ['GET', /^\/api\/intakes$/, LogPage],
  ['GET', /^\/api\/intakes\/calendar$/, LogCalendar],
  ['GET', /^\/api\/intakes\/\d+$/, IntakeSummary],
  ['PATCH', /^\/api\/intakes\/\d+\/(slip|taken|belongs|aside)$/, IntakeSummary],
  ['GET', /^\/api\/intakes\/\d+\/items$/, ItemsAnswer],
  ['GET', /^\/api\/intakes\/\d+\/bodies$/, z.array(BodyView)],
  ['PATCH', /^\/api\/intakes\/\d+\/clock$/, z.object({ items: z.number().int() })],
  ['GET', /^\/api\/intakes\/\d+\/events$/, z.array(EventView)],
  ['GET', /^\/api\/intakes\/\d+\/plan$/, PlanView],
  ['POST', /^\/api\/intakes\/\d+\/file$/, FileAnswer],
  ['GET', /^\/api\/intakes\/\d+\/receipts$/, z.array(KeptReceipt)],
  ['GET', /^\/api\/intakes\/\d+\/clearance$/, ClearanceView],
  ['POST', /^\/api\/intakes\/\d+\/clear$/, ClearAnswer],
  ['POST', /^\/api\/intakes\/\d+\/let-go$/, LetGoAnswer],
  ['POST', /^\/api\/intakes\/\d+\/restore$/, RestoreAnswer],
  ['GET', /^\/api\/items\/\d+\/details$/, ItemDetails],
  ['GET', /^\/api\/items\/\d+\/wave$/, SoundWave],
  ['POST', /^\/api\/scans$/, ScanAnswer],
  ['GET', /^\/api\/things$/, LendingList],
  ['POST', /^\/api\/things$/, ThingKey],
  ['GET', /^\/api\/things\/[a-z]+\/\d+\/loans$/, LoanHistory],
  ['GET', /^\/api\/hand-in\/choices$/, HandInChoices],
  ['POST', /^\/api\/hand-in$/, HandInView],
  ['GET', /^\/api\/hand-in\/\d+$/, HandInView],
  ['POST', /^\/api\/hand-in\/\d+\/done$/, HandInView],
  ['POST', /^\/api\/hand-in\/links$/, HandInLinkView],
];

/** The schema of an answer; undefined where it has no body that is looked at. */
export const answerTo = (method: string, url: string): z.ZodType | undefined => {
  const path = url.split('?')[0]!;
  return ANSWERS.find(([how, where]) => how === method && where.test(path))?.[2];
};

/** @throws ZodError when an answer is not what the contract says. */
export function check(method: string, url: string, body: unknown): void {
  answerTo(method, url)?.parse(body);
}
