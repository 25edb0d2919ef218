/*
 * rules: the house rule and its revisions.
 * In: a rule as text, real items to try it on.
 * Out: revisions that never change, verdicts, the rule in force.
 */
export { currentRule, dayBegins, ensureRule, listRules, rebuildRules, ruleOfRevision } from './store.js';
export { saveRule } from './rules.js';
