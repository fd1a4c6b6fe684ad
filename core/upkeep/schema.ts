import { z } from 'zod';
import { CHECK_NAMES, ITEM_CHECKS, type CheckName, type ItemCheck } from './checks.ts';

export const CheckNames = z.enum(CHECK_NAMES as [CheckName, ...CheckName[]]);
export const ItemChecks = z.enum(ITEM_CHECKS as [ItemCheck, ...ItemCheck[]]);
