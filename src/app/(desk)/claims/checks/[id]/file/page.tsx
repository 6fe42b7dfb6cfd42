import { readCheckFiles, readSegments } from '../../../../../../server/claims/check-only';
import { idOf, orNotFound, signedInFor } from '../../../../../session';
import { FileView } from './file-view';

/** What the browser shows as title. */
export const metadata = { title: 'File of claims' };

/** The files that a check’s ready claims would make: which one and which claim of it comes from the address. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ file?: string; claim?: string }>;
}) {
  const context = await signedInFor('work claims');
  const checkId = await idOf(params);
  const asked = await searchParams;
  const files = await orNotFound(readCheckFiles(context, checkId));
  const file = files[Number(asked.file ?? 0)] ?? files[0];
  const claim = file?.claims.find(({ controlNumber }) => controlNumber === asked.claim) ?? file?.claims[0];
  const text =
    file && claim
      ? await readSegments(context, checkId, { ...file, controlNumber: claim.controlNumber })
      : '';
  return (
    <FileView
      checkId={checkId}
      files={files}
      at={file ? files.indexOf(file) : 0}
      claim={claim?.controlNumber ?? ''}
      text={text}
    />
  );
}
