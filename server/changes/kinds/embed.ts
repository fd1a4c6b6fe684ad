import { embed as kind } from '../../../core/plan/kinds/embed.ts';
import { proposeEmbed } from '../write-metadata.ts';
import { planned } from './kind.ts';

export const embed = planned(kind, (site, request, { progress }) =>
  proposeEmbed(site, request.itemIds, request.as, progress),
);
