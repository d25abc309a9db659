/** The address that dials a number as somebody wrote it. @example dialling('+44 1632 960677') // 'tel:+441632960677' */
export const dialling = (phone: string) => `tel:${phone.replace(/[^\d+]/g, '')}`;

/** How to reach somebody: a telephone number that can be pressed, and the e-mail address. */
export function Contact({ email, phone }: { email: string | null; phone: string | null }) {
  return (
    <p>
      {phone ? <a href={dialling(phone)}>{phone}</a> : 'No phone number'}
      <br />
      {email ? <span>{email}</span> : 'No e-mail address'}
    </p>
  );
}
