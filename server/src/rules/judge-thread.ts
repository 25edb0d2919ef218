import { judgeRule, ruleOf, type RuleSource, type Trial, type Verdict } from '@tally/core/rule';
import workerpool from 'workerpool';

export const judge = (source: RuleSource, trial: Trial): Verdict[] => judgeRule(ruleOf(source), trial);

workerpool.worker({ judge });
