'use client';

import '@mantine/core/styles/Drawer.layer.css';

export { Drawer as SheetDrawer } from '@mantine/core';
