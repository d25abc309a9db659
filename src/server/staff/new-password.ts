import { MaxLength, MinLength } from 'class-validator';

/** A password that somebody is to have from now on: long, and otherwise as they like it. */
export class NewPasswordInput {
  @MinLength(12, { message: 'needs at least 12 characters' })
  @MaxLength(500, { message: 'is too long' })
  password!: string;
}
