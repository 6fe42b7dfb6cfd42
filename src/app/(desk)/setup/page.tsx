import { redirect } from 'next/navigation';

/** The setup begins with the practice. */
export default function Page() {
  redirect('/setup/practice');
}
