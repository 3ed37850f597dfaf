import * as z from 'zod';
import {
  followerSchema,
  followersSchema,
  uploadSchema,
  type Follower,
  type FollowerRequest,
  type Upload,
  type UploadRequest,
} from '../../../contract/ways-in.ts';
import { jobSchema, type Job } from '../../../contract/work.ts';
import { api, through } from '../../ui/api.ts';

const uploadsSchema = z.array(
  z.object({
    id: z.number(),
    name: z.string(),
    isFinished: z.boolean(),
    size: z.number(),
    received: z.number(),
  }),
);
export type ListedUpload = z.infer<typeof uploadsSchema>[number];

export const {
  useFollowersQuery,
  useAddFollowerMutation,
  useChangeFollowerMutation,
  useRemoveFollowerMutation,
  useLookNowMutation,
  useUploadsQuery,
  useBeginUploadMutation,
  useFinishUploadMutation,
  useRemoveUploadMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    followers: build.query<Follower[], void>({
      query: () => '/followers',
      transformResponse: through(followersSchema),
      providesTags: ['followers'],
    }),
    addFollower: build.mutation<Follower, FollowerRequest>({
      query: (body) => ({ url: '/followers', method: 'POST', body }),
      transformResponse: through(followerSchema),
      invalidatesTags: ['followers', 'titles'],
    }),
    changeFollower: build.mutation<Follower, { id: number; paused?: boolean; intervalSeconds?: number }>({
      query: ({ id, ...body }) => ({ url: `/followers/${id}`, method: 'PATCH', body }),
      transformResponse: through(followerSchema),
      invalidatesTags: ['followers'],
    }),
    removeFollower: build.mutation<unknown, number>({
      query: (id) => ({ url: `/followers/${id}`, method: 'DELETE' }),
      invalidatesTags: ['followers'],
    }),
    lookNow: build.mutation<Job, number>({
      query: (id) => ({ url: `/followers/${id}/look`, method: 'POST' }),
      transformResponse: through(jobSchema),
    }),
    uploads: build.query<ListedUpload[], void>({
      query: () => '/uploads',
      transformResponse: through(uploadsSchema),
      providesTags: ['uploads'],
    }),
    beginUpload: build.mutation<Upload, UploadRequest>({
      query: (body) => ({ url: '/uploads', method: 'POST', body }),
      transformResponse: through(uploadSchema),
      invalidatesTags: ['uploads'],
    }),
    finishUpload: build.mutation<Upload, number>({
      query: (id) => ({ url: `/uploads/${id}/finish`, method: 'POST' }),
      transformResponse: through(uploadSchema),
      invalidatesTags: ['uploads'],
    }),
    removeUpload: build.mutation<unknown, number>({
      query: (id) => ({ url: `/uploads/${id}`, method: 'DELETE' }),
      invalidatesTags: ['uploads'],
    }),
  }),
});
