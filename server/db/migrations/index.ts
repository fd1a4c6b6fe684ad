import m001 from './001-first-schema.ts';
import m002 from './002-reader-version.ts';
import m003 from './003-contents.ts';
import m004 from './004-people-rules-and-words.ts';
import m005 from './005-notes-and-progress.ts';
import m006 from './006-own-fields-and-patterns.ts';
import m007 from './007-recognised-text.ts';
import m008 from './008-plans-apart.ts';
import m009 from './009-layout-and-live.ts';
import m010 from './010-likenesses.ts';
import m011 from './011-checks.ts';
import m012 from './012-damage.ts';
import m013 from './013-care-by-line.ts';
import m014 from './014-shown-widths.ts';
import m015 from './015-unsettled-and-state.ts';
import m016 from './016-families.ts';
import m017 from './017-small-merges.ts';
import m018 from './018-what-indexes-hold.ts';
import m019 from './019-crowds.ts';
import m020 from './020-plans-in-parts.ts';
import m021 from './021-namespaces-of-settings.ts';
import m022 from './022-edits.ts';
import m023 from './023-treatments.ts';
import m024 from './024-arrival-recipes.ts';
import m025 from './025-sign-in.ts';
import m026 from './026-drafts.ts';
import m027 from './027-submissions.ts';
import m028 from './028-comments.ts';
import m029 from './029-machine-tokens.ts';
import m030 from './030-second-factors.ts';
import m031 from './031-provided-people.ts';
import m032 from './032-folders-of-people.ts';
import m033 from './033-bank-orders.ts';
import m034 from './034-tag-suggestions.ts';
import m035 from './035-unsaved-texts.ts';
import m036 from './036-being-checked.ts';
import m037 from './037-made-pdfs.ts';

/** The schema, one step after the other. A step is never changed once it has been released; add a new one. */
export const MIGRATIONS: readonly string[] = [
  m001,
  m002,
  m003,
  m004,
  m005,
  m006,
  m007,
  m008,
  m009,
  m010,
  m011,
  m012,
  m013,
  m014,
  m015,
  m016,
  m017,
  m018,
  m019,
  m020,
  m021,
  m022,
  m023,
  m024,
  m025,
  m026,
  m027,
  m028,
  m029,
  m030,
  m031,
  m032,
  m033,
  m034,
  m035,
  m036,
  m037,
];
