import { z } from 'zod';
import { address } from './address.ts';
import { bringBack } from './bring-back.ts';
import { cells } from './cells.ts';
import { comment } from './comment.ts';
import { confirmTags } from './confirm-tags.ts';
import { convert } from './convert.ts';
import { copies } from './copies.ts';
import { credits } from './credits.ts';
import { discard } from './discard.ts';
import { dismiss } from './dismiss.ts';
import { document } from './document.ts';
import { dropFolders } from './drop-folders.ts';
import { edit } from './edit.ts';
import { embed } from './embed.ts';
import { family } from './family.ts';
import { focal } from './focal.ts';
import { folder } from './folder.ts';
import { followMoves } from './follow-moves.ts';
import { forget } from './forget.ts';
import { gallery } from './gallery.ts';
import { handOn } from './hand-on.ts';
import { keepingDays } from './keeping-days.ts';
import { linkForm } from './link-form.ts';
import { kept } from './kept.ts';
import { layout } from './layout.ts';
import { lighten } from './lighten.ts';
import { makePdf } from './make-pdf.ts';
import { merge } from './merge.ts';
import { move } from './move.ts';
import { namePattern } from './name-pattern.ts';
import { names } from './names.ts';
import { newFolder } from './new-folder.ts';
import { offer } from './offer.ts';
import { order } from './order.ts';
import { ownField } from './own-field.ts';
import { pageWords } from './page-words.ts';
import { person } from './person.ts';
import { place } from './place.ts';
import { placement } from './placement.ts';
import { prepare } from './prepare.ts';
import { publicFolders } from './public.ts';
import { publish } from './publish.ts';
import { records } from './records.ts';
import { redirects } from './redirects.ts';
import { repair } from './repair.ts';
import { replace } from './replace.ts';
import { restore } from './restore.ts';
import { reunite } from './reunite.ts';
import { rightEndings } from './right-endings.ts';
import { rule } from './rule.ts';
import { service } from './service.ts';
import { setAside } from './set-aside.ts';
import { sizes } from './sizes.ts';
import { suggestedTags } from './suggested-tags.ts';
import { tag } from './tag.ts';
import { tagAbove } from './tag-above.ts';
import { tagSpelling } from './tag-spelling.ts';
import { treat } from './treat.ts';
import { treatment } from './treatment.ts';
import { undo } from './undo.ts';
import { unplace } from './unplace.ts';
import { withdraw } from './withdraw.ts';
import { withoutPlace } from './without-place.ts';

/** Every kind of plan, by its name. */
export const KINDS_OF_PLAN = {
  address,
  'bring-back': bringBack,
  cells,
  comment,
  'confirm-tags': confirmTags,
  convert,
  copies,
  credits,
  discard,
  dismiss,
  document,
  'drop-folders': dropFolders,
  edit,
  embed,
  family,
  focal,
  folder,
  'follow-moves': followMoves,
  forget,
  gallery,
  'hand-on': handOn,
  'keeping-days': keepingDays,
  'link-form': linkForm,
  kept,
  layout,
  lighten,
  'make-pdf': makePdf,
  merge,
  move,
  'name-pattern': namePattern,
  names,
  'new-folder': newFolder,
  offer,
  order,
  'own-field': ownField,
  'page-words': pageWords,
  person,
  place,
  placement,
  prepare,
  public: publicFolders,
  publish,
  records,
  redirects,
  repair,
  replace,
  restore,
  reunite,
  'right-endings': rightEndings,
  rule,
  service,
  'set-aside': setAside,
  sizes,
  'suggested-tags': suggestedTags,
  tag,
  'tag-above': tagAbove,
  'tag-spelling': tagSpelling,
  treat,
  treatment,
  undo,
  unplace,
  withdraw,
  'without-place': withoutPlace,
};
export type KindName = keyof typeof KINDS_OF_PLAN;

/** What to plan. */
export const PlanRequest = z.discriminatedUnion('kind', [
  address.request,
  bringBack.request,
  cells.request,
  comment.request,
  confirmTags.request,
  convert.request,
  copies.request,
  credits.request,
  discard.request,
  dismiss.request,
  document.request,
  dropFolders.request,
  edit.request,
  embed.request,
  family.request,
  focal.request,
  folder.request,
  followMoves.request,
  forget.request,
  gallery.request,
  handOn.request,
  keepingDays.request,
  linkForm.request,
  kept.request,
  layout.request,
  lighten.request,
  makePdf.request,
  merge.request,
  move.request,
  namePattern.request,
  names.request,
  newFolder.request,
  offer.request,
  order.request,
  ownField.request,
  pageWords.request,
  person.request,
  place.request,
  placement.request,
  prepare.request,
  publicFolders.request,
  publish.request,
  records.request,
  redirects.request,
  repair.request,
  replace.request,
  restore.request,
  reunite.request,
  rightEndings.request,
  rule.request,
  service.request,
  setAside.request,
  sizes.request,
  suggestedTags.request,
  tag.request,
  tagAbove.request,
  tagSpelling.request,
  treat.request,
  treatment.request,
  undo.request,
  unplace.request,
  withdraw.request,
  withoutPlace.request,
]);
export type PlanRequest = z.input<typeof PlanRequest>;
/** The request of one kind, as it has been read. */
export type RequestOf<Name extends KindName> = z.output<(typeof KINDS_OF_PLAN)[Name]['request']>;
