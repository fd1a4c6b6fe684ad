import { comment as kind } from '../../../core/plan/kinds/comment.ts';
import { proposeComment, proposeUncomment } from '../comments.ts';
import { planned } from './kind.ts';

export const comment = planned(kind, (site, { itemId, say }, { personId }) =>
  'text' in say
    ? proposeComment(site, itemId, say.text, personId)
    : proposeUncomment(site, itemId, say.key, personId),
);
