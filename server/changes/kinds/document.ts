import { document as kind } from '../../../core/plan/kinds/document.ts';
import { proposeDocument } from '../document.ts';
import { planned } from './kind.ts';

export const document = planned(kind, proposeDocument);
