import { folder as kind } from '../../../core/plan/kinds/folder.ts';
import { proposeFolder } from '../folders.ts';
import { planned } from './kind.ts';

export const folder = planned(kind, (site, request) => proposeFolder(site, request.folder, request.to));
