import { z } from 'zod';

/**
 * What a tagging service says over HTTP, version 1 (docs/services.md): it looks at images and says what is on them. The server reads it and
 * the stand-in speaks it, so that both hold to the same words; what is of another form is no answer.
 */
const text = (longest: number) => z.string().trim().max(longest);

/** By which an image is called: of its content, so that the same one is sent once. */
export const ImageKey = z.string().regex(/^[0-9a-f]{64}$/);

/** Pixels of an image that is sent, at most. */
export const SENT_PIXELS = 1_000_000;
/** Images that are asked about, and examples that are told, at once. */
export const KEYS_AT_ONCE = 50;
export const EXAMPLES_AT_ONCE = 200;

const part = z.number().min(0).max(1);
export const Label = z.object({
  label: text(300).min(1),
  /** How sure it is, from 0 to 1. */
  confidence: part,
  /** Where it is, in parts of width and height from the upper left corner. */
  box: z.object({ x: part, y: part, width: part, height: part }).optional(),
  /** Images by which it is known, the likest first. */
  because: z.array(ImageKey).max(10).optional(),
  /** Why, in a few words. */
  reason: text(200).optional(),
});
export type Label = z.infer<typeof Label>;

export const TaggerFacts = z.object({
  name: text(80).min(1),
  version: z.literal(1),
  /** Of its labels (BCP 47). */
  language: z.string().regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$/),
  /** It takes examples, and keeps what it was sent for them. */
  learns: z.boolean(),
});
export type TaggerFacts = z.infer<typeof TaggerFacts>;

/** Of one image that was sent. */
export const Seen = z.object({ labels: z.array(Label) });
/** Of images that were sent before; those that it does not have any more. */
export const SeenAgain = z.object({
  images: z.array(z.object({ key: ImageKey, labels: z.array(Label) })),
  unknown: z.array(ImageKey),
});
export type SeenAgain = z.infer<typeof SeenAgain>;
/** Which of the examples it has no image of. */
export const Learnt = z.object({ unknown: z.array(ImageKey) });

export const LabelsAsked = z.strictObject({ keys: z.array(ImageKey).max(KEYS_AT_ONCE) });
/** What people say is on an image; none: it is no example any more. */
export const ExamplesTold = z.strictObject({
  examples: z
    .array(z.strictObject({ key: ImageKey, labels: z.array(text(80).min(1)).max(50) }))
    .max(EXAMPLES_AT_ONCE),
});
export type ExamplesTold = z.infer<typeof ExamplesTold>;
