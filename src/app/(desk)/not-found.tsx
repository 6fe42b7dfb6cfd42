import { Result } from 'antd';
import Link from 'next/link';

/** What stands in place of a page that is not there, or not for this role. */
export default function Missing() {
  return (
    <Result
      status="info"
      title="There is nothing here"
      subTitle="The address is mistyped, what was there is gone, or it is not for your role."
      extra={<Link href="/">Go to Today</Link>}
    />
  );
}
