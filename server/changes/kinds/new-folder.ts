import { newFolder as kind } from '../../../core/plan/kinds/new-folder.ts';
import { proposeNewFolder } from '../folders.ts';
import { planned } from './kind.ts';

export const newFolder = planned(kind, (site, request) => proposeNewFolder(site, request.folder));
