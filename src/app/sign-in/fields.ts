import type { AccountField } from './account-form';

export const EMAIL: AccountField = { name: 'email', label: 'E-mail', autoComplete: 'username', type: 'email' };

export const PASSWORD: AccountField = {
  name: 'password',
  label: 'Password',
  autoComplete: 'current-password',
  type: 'password',
};

export const NEW_PASSWORD: AccountField = {
  ...PASSWORD,
  autoComplete: 'new-password',
  description: 'At least 12 characters',
};
