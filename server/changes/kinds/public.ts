import { publicFolders as kind } from '../../../core/plan/kinds/public.ts';
import { proposePublic } from '../records.ts';
import { planned } from './kind.ts';

export const publicFolders = planned(kind, (site, request) => proposePublic(site, request.folders));
