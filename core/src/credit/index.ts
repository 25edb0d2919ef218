/*
 * credit: whose is it, what may be done with it, and who is in it?
 * In: what item, slip, assignment, contributor and house say; habits; terms; people and their consent.
 * Out: the credit of an item with where each thing comes from, what terms and consent come to on a day.
 * Standard: the fields map one to one to the IPTC Photo Metadata Standard (creator, credit line, copyright notice, rights
 * usage terms, web statement of rights, keywords, location created, person shown).
 */
export { CONSENTS, consentOf, consentOfAll, notToBeShown, type Consent, type ConsentStanding, type Pictured } from './consent.js';
export { CREDIT_FIELDS, faultOfCreditLine, fillCreditLine, type CreditFacts } from './credit-fields.js';
export { embeddedInWords, isEmpty, isOfCamera, NOTHING_EMBEDDED, type Embedded } from './embedded.js';
export {
  answersFor,
  BELONGINGS,
  type Answer,
  type AnswerField,
  type Answers,
  type AnswersGiven,
  type Belonging,
  type Habit,
  type SlipNow,
} from './habit.js';
export { creditInContext, type CreditContext, type ItemCredit, type ItemSays, type SaidWord, type Speaker } from './of-item.js';
export { mayBeUsed, type MayBeUsed } from './may-be-used.js';
export { creditOf, LEVELS, NOTHING_SAID, type CreditOf, type CreditSaid, type Level } from './said.js';
export {
  LICENCES,
  licenceAt,
  STANCES,
  termsStanding,
  type Stance,
  type Terms,
  type TermsGiven,
  type TermsStanding,
} from './terms.js';
