import { z } from 'zod';
import { BankTake } from './image-bank.ts';
import { ArrivalChanges, BringIn, FetchRequest } from './intake.ts';
import { AddressRequest, KeepQuery, ManyItems, SaveWords, TableOutRequest, TableRequest } from './items.ts';
import { NamingRequest } from './naming.ts';
import { LiveRequest } from './pages.ts';
import { ApplyRequest, NoteRequest, PlanRequest, SubmitRequest } from './plans.ts';
import { ReturnRequest } from './submissions.ts';
import { ExportRequest, SettleRequest } from './site.ts';
import { FramingRequest, TryRecipe } from './edits.ts';
import {
  FactorCode,
  InvitationLook,
  InvitationUse,
  Invite,
  MakeToken,
  OwnPassword,
  PasswordChange,
  ProviderAnswer,
  SignIn,
  SignInAs,
} from './people.ts';
import { UnsavedText } from './documents.ts';
import { EmptyRequest, MeasuredPage } from './upkeep.ts';

/** A request that says nothing beyond its address. */
const Nothing = z.strictObject({});

/** Every body that a request may bring, by name: a thread that reads one knows its schema by that. */
export const BODIES = {
  AddressRequest,
  ApplyRequest,
  ArrivalChanges,
  BankTake,
  BringIn,
  EmptyRequest,
  ExportRequest,
  FetchRequest,
  FactorCode,
  InvitationLook,
  InvitationUse,
  Invite,
  KeepQuery,
  LiveRequest,
  MakeToken,
  ManyItems,
  MeasuredPage,
  NamingRequest,
  NoteRequest,
  Nothing,
  OwnPassword,
  PasswordChange,
  PlanRequest,
  ProviderAnswer,
  ReturnRequest,
  SaveWords,
  SettleRequest,
  SignIn,
  SignInAs,
  SubmitRequest,
  TableOutRequest,
  TableRequest,
  FramingRequest,
  TryRecipe,
  UnsavedText,
} satisfies Record<string, z.ZodType>;
export type BodyName = keyof typeof BODIES;
export type Body<Name extends BodyName> = z.infer<(typeof BODIES)[Name]>;
