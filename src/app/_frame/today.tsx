'use client';

import { createContext, useContext, type ReactNode } from 'react';

const Today = createContext(0);

/** Tells every field of a day which day it is: the programme's, not the browser's. */
export function TodayProvider({ day, children }: { day: number; children: ReactNode }) {
  return <Today value={day}>{children}</Today>;
}

/** Day number of today. */
export function useToday(): number {
  return useContext(Today);
}
