/** How to reach somebody: a telephone number that can be pressed, and the e-mail address. */
export function Contact({ email, phone }: { email: string | null; phone: string | null }) {
  return (
    <p>
      {phone ? <a href={`tel:${phone.replace(/[^\d+]/g, '')}`}>{phone}</a> : 'No phone number'}
      <br />
      {email ? <span>{email}</span> : 'No e-mail address'}
    </p>
  );
}
