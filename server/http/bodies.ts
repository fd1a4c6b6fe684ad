import type { z } from 'zod';
import { ArrivalChanges, BringIn, FetchRequest } from '../../api/intake.ts';
import {
  AddressRequest,
  KeepQuery,
  ManyItems,
  SaveWords,
  TableOutRequest,
  TableRequest,
} from '../../api/items.ts';
import { NamingRequest } from '../../api/naming.ts';
import { LiveRequest } from '../../api/pages.ts';
import { ApplyRequest, NoteRequest, PlanRequest } from '../../api/plans.ts';
import { ChoosePerson, ExportRequest, SettleRequest } from '../../api/site.ts';
import { EmptyRequest, MeasuredPage } from '../../api/upkeep.ts';

/** Every body that a request may bring, by name: a thread that reads one knows its schema by that. */
export const BODIES = {
  AddressRequest,
  ApplyRequest,
  ArrivalChanges,
  BringIn,
  ChoosePerson,
  EmptyRequest,
  ExportRequest,
  FetchRequest,
  KeepQuery,
  LiveRequest,
  ManyItems,
  MeasuredPage,
  NamingRequest,
  NoteRequest,
  PlanRequest,
  SaveWords,
  SettleRequest,
  TableOutRequest,
  TableRequest,
} satisfies Record<string, z.ZodType>;
export type BodyName = keyof typeof BODIES;
export type Body<Name extends BodyName> = z.infer<(typeof BODIES)[Name]>;
