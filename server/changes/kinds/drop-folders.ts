import { dropFolders as kind } from '../../../core/plan/kinds/drop-folders.ts';
import { proposeDropFolders } from '../folders.ts';
import { planned } from './kind.ts';

export const dropFolders = planned(kind, (site, request) => proposeDropFolders(site, request.folders));
