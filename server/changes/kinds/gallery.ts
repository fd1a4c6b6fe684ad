import { gallery as kind } from '../../../core/plan/kinds/gallery.ts';
import { proposeGallery } from '../placements.ts';
import { planned } from './kind.ts';

export const gallery = planned(kind, (site, request) => proposeGallery(site, request));
