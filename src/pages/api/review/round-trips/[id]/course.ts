import { courseOf } from '../../../../../desk/review/course.ts';
import { presentCourse } from '../../../../../desk/review/present.ts';
import { endpoint, json } from '../../../_endpoint.ts';
import { notFound } from '../../../_problem.ts';

export const ALL = endpoint('/api/review/round-trips/{id}/course', {
  GET: async (call) => {
    const found = await call.review.trip(call.parameter('id'), call.accounts);
    return found ? json(200, presentCourse(found, await courseOf(call.desk, found.trip))) : notFound();
  },
});
