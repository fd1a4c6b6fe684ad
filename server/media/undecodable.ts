/** The image is not whole, or too large: a sentence for the person. */
export class Undecodable extends Error {}

/** It may be whole, but nobody wants to find out. */
export class TooLarge extends Undecodable {}
