/** A piece as an e-mail (RFC 5322, MIME), the same bytes however often it is written. */

/** What a message says. */
export interface Message {
  /** Its id outside, the same however often it is written. */
  id: string;
  from: { name: string; address: string };
  to: { name: string; address: string };
  subject: string;
  text: string;
  /** When it was made first. */
  date: Date;
  attachment?: { name: string; bytes: Buffer };
}

/** Its id, by which a gateway knows that it has it already. */
const messageId = ({ id, from }: Message): string => `<${id}@${from.address.split('@')[1] ?? 'localhost'}>`;

/** Writes a message; what writes it is loaded with the first one. */
export async function writeMessage(message: Message): Promise<Buffer> {
  const { default: MailComposer } = await import('nodemailer/lib/mail-composer/index.js');
  return new MailComposer({
    from: message.from,
    to: message.to,
    subject: message.subject,
    text: message.text,
    date: message.date,
    messageId: messageId(message),
    // The same boundaries each time, so that a repetition is the same file.
    baseBoundary: message.id,
    attachments: message.attachment
      ? [
          {
            filename: message.attachment.name,
            content: message.attachment.bytes,
            contentType: 'application/pdf',
          },
        ]
      : [],
  } as ConstructorParameters<typeof MailComposer>[0])
    .compile()
    .build();
}
