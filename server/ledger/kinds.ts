import type { z } from 'zod';
import type { PlanRequest } from '../../api/plans.ts';
import type { Site } from '../site/site.ts';
import { proposeAddress, proposeMove, proposeNames } from './addresses.ts';
import { proposeAside, proposeCopies, proposeRestore } from './files.ts';
import { proposeDropFolders, proposeFolder, proposeNewFolder } from './folders.ts';
import { proposeEmbed } from './embed.ts';
import { proposeFamily } from './family.ts';
import { proposeMerge } from './merge.ts';
import { proposeJpegs, proposeLighter, proposeRightEndings, proposeWithoutPlace } from './remedies.ts';
import { proposeDismissal, proposeKeepingDays, proposeRedirects } from './upkeep.ts';
import { proposeFocal, proposeGallery, proposePlacing, proposePointing } from './placements.ts';
import { proposeOrder, proposePlacement, proposeUnplace } from './placement-edits.ts';
import { proposeOffered, proposeSizes } from './sizes.ts';
import { proposeReplace } from './replace.ts';
import { proposePageWords } from './page-words.ts';
import {
  proposeAbove,
  proposeCells,
  proposeEdit,
  proposeLayout,
  proposeNamePattern,
  proposeOwnField,
  proposePublic,
  proposeRecords,
  proposeRule,
  proposeSpelling,
  proposeTag,
} from './records.ts';
import { proposeUndo } from './undo.ts';
import { proposeBringBack, proposeKept } from './versions.ts';
import { proposeFollowMoves, proposeForget, proposeReunite } from './missing.ts';
import { resting } from './rests.ts';
import { targetClashes } from './targets.ts';
import type { Progress, Proposal } from './proposal.ts';

/** What takes its time also with a few items. */
export const ENCODES: ReadonlySet<string> = new Set(['lighten', 'offer', 'convert', 'without-place']);

/** What only changes records and settings: it rests on no file, so the site need not be read for it. */
const OF_RECORDS: ReadonlySet<string> = new Set([
  'records',
  'edit',
  'cells',
  'name-pattern',
  'own-field',
  'tag',
  'tag-spelling',
  'tag-above',
  'rule',
  'layout',
  'public',
  'dismiss',
  'keeping-days',
]);

/** Computes the plan that a request asks for, and notes what it rests on. */
export async function propose(
  site: Site,
  request: z.output<typeof PlanRequest>,
  personId: number,
  progress?: Progress,
): Promise<Proposal> {
  const compute = () => computeKind(site, request, personId, progress);
  const proposal = await (OF_RECORDS.has(request.kind) ? compute() : resting(site, compute));
  const { clashes } = proposal.plan;
  const told = new Set(clashes.map((one) => one.path));
  for (const one of await targetClashes(site, proposal.plan)) if (!told.has(one.path)) clashes.push(one);
  return proposal;
}

function computeKind(
  site: Site,
  request: z.output<typeof PlanRequest>,
  personId: number,
  progress?: Progress,
): Promise<Proposal> {
  switch (request.kind) {
    case 'address':
      return proposeAddress(site, request.itemId, request.folder, request.name);
    case 'records':
      return proposeRecords(site, request.itemIds, request);
    case 'names':
      return proposeNames(site, request.names, progress);
    case 'embed':
      return proposeEmbed(site, request.itemIds, request.as, progress);
    case 'edit':
      return proposeEdit(site, request.itemIds, request.field, request.edit);
    case 'page-words':
      return proposePageWords(site, request.places, progress);
    case 'cells':
      return proposeCells(site, request.cells);
    case 'name-pattern':
      return Promise.resolve(proposeNamePattern(site, request.name, request.pattern));
    case 'own-field':
      return Promise.resolve(proposeOwnField(site, request.name, request.field));
    case 'move':
      return proposeMove(site, request.itemIds, request.folder, progress);
    case 'folder':
      return proposeFolder(site, request.folder, request.to);
    case 'tag':
      return proposeTag(site, request.tag, request.to);
    case 'tag-spelling':
      return Promise.resolve(proposeSpelling(site, request.tag, request.spelling, request.drop));
    case 'tag-above':
      return Promise.resolve(proposeAbove(site, request.tag, request.above));
    case 'copies':
      return proposeCopies(site, request.itemIds, request.folder);
    case 'new-folder':
      return proposeNewFolder(site, request.folder);
    case 'drop-folders':
      return proposeDropFolders(site, request.folders);
    case 'rule':
      return Promise.resolve(proposeRule(site, request.folder, request.rule));
    case 'repair':
      return proposePointing(site, request.places);
    case 'place':
      return proposePlacing(site, request);
    case 'placement':
      return proposePlacement(site, request);
    case 'unplace':
      return proposeUnplace(site, request.places);
    case 'order':
      return proposeOrder(site, request.page, request.start, request.to);
    case 'sizes':
      return proposeSizes(site, request.itemId);
    case 'gallery':
      return proposeGallery(site, request);
    case 'focal':
      return proposeFocal(site, request.itemId, request.focal, request.places);
    case 'family':
      return proposeFamily(site, request.itemIds, request.of);
    case 'replace':
      return proposeReplace(site, request, personId);
    case 'layout':
      return Promise.resolve(proposeLayout(site, request.layout));
    case 'public':
      return Promise.resolve(proposePublic(site, request.folders));
    case 'bring-back':
      return proposeBringBack(site, request.itemId, request.entryId);
    case 'merge':
      return proposeMerge(site, request.groups);
    case 'lighten':
      return proposeLighter(site, request.itemIds, progress);
    case 'offer':
      return proposeOffered(site, request.itemIds, progress);
    case 'convert':
      return proposeJpegs(site, request.itemIds, progress);
    case 'kept':
      return proposeKept(site, request.itemIds, progress);
    case 'without-place':
      return proposeWithoutPlace(site, request.itemIds, progress);
    case 'right-endings':
      return proposeRightEndings(site, request.itemIds, progress);
    case 'forget':
      return proposeForget(site, request.itemIds);
    case 'reunite':
      return Promise.resolve(proposeReunite(site, request.itemId, request.path));
    case 'follow-moves':
      return proposeFollowMoves(site, request.itemIds);
    case 'dismiss':
      return proposeDismissal(site, request.check, request.subjects, request.reason, personId);
    case 'keeping-days':
      return Promise.resolve(proposeKeepingDays(site, request.days));
    case 'redirects':
      return proposeRedirects(site, request.redirects);
    case 'set-aside':
      return proposeAside(site, request.itemIds, request.leavePlaced);
    case 'restore':
      return proposeRestore(site, request.itemIds, request.freeNames);
    case 'undo':
      return proposeUndo(site, request.entryId, request.withLater);
  }
}
