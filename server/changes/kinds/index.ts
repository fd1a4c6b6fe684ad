import { KINDS_OF_PLAN, type KindName, type RequestOf } from '../../../core/plan/kinds/index.ts';
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
import type { Site } from '../../app/site.ts';
import type { Proposal } from '../proposal.ts';
import { resting } from '../rests.ts';
import { targetClashes } from '../targets.ts';
import type { Asking, Planned } from './kind.ts';

/** How each kind of plan is computed. */
const PLANNED: { readonly [Name in KindName]: Planned<Name> } = {
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

/** Computes the plan that a request asks for, and notes what it rests on. */
export async function propose<Name extends KindName>(
  site: Site,
  request: RequestOf<Name> & { kind: Name },
  asking: Asking,
): Promise<Proposal> {
  const compute = async () => PLANNED[request.kind].compute(site, request, asking);
  const proposal = await (KINDS_OF_PLAN[request.kind].changes === 'records'
    ? compute()
    : resting(site, compute));
  proposal.kind = request.kind;
  proposal.request = request;
  const { clashes } = proposal.plan;
  const told = new Set(clashes.map((one) => one.path));
  for (const one of await targetClashes(site, proposal.plan)) if (!told.has(one.path)) clashes.push(one);
  return proposal;
}
