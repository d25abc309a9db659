'use client';

/** A page inside the frame that could not be shown: the rail stays. */
export { default } from '../error';
