/*
 * seeing: the items of a card as they are looked at.
 * In: listed and read files, what a person says of them.
 * Out: items with their totals, judgements, belonging, clocks, pictures. It alone writes items.
 */
export { filedCopy, itemViews, itemViewsById, pictureSource } from './items.js';
export { itemsThatFit } from './judge-commands.js';
export { judgeAcross, judgeItems, splitItems } from './judge.js';
export { filedPicturesAhead, FROM_THE_NEWEST, LookKeeper, pictureAhead } from './picture-ahead.js';
export { Previewer } from './previewer.js';
export { placeableItems } from './store/placeable.js';
export { countIntake } from './totals.js';
export { comparing, filedByIdentity, markAlreadyFiled, settleAlreadyFiled } from './store/already-filed.js';
export { allThere, setAsideItems, setGone, setGoneExcept, takeAgain } from './store/fates.js';
export {
  addItems,
  itemPlace,
  forgetUnreadable,
  type ItemRow,
  itemsOf,
  type ListedItem,
  type ReadItem,
  setTaken,
  storable,
  touchItems,
  unreadItems,
  writeRead,
} from './store/items.js';
export {
  bodiesOf,
  correctFiled,
  likelyTwins,
  markNamesakes,
  setDescription,
  setItemContributor,
  setTwins,
  touchChosen,
} from './store/judgements.js';
export { objectsOnCard } from './in-object.js';
export { rebuildClocks, type RebuiltItem, rebuildItems, rebuildLeft } from './store/rebuilt.js';
export { reviewObjects } from './store/objects.js';
export { takeItems } from './take.js';
export { refreshTotals } from './totals.js';
export { seeingWork } from './work.js';
