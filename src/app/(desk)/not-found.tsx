import { Result } from 'antd';
import Link from 'next/link';

/** What stands in place of a page that is not there, or not for this role. */
export default function Missing() {
  return (
    <Result
      status="info"
      title="There is nothing here"
      subTitle="It may have been removed, or the address is mistyped."
      extra={<Link href="/">Go to Today</Link>}
    />
  );
}
