import { answered, api, newId } from "../../api/client";

/** Keeps a picture with a run; throws an ApiError where it is not taken. */
export async function attachPicture(runId: string, file: File): Promise<void> {
  const params = { path: { id: runId }, query: { id: newId(), file_name: file.name } };
  await answered(
    api.POST("/api/runs/{id}/attachments", {
      params,
      body: file as never,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { "content-type": "application/octet-stream" },
    }),
  );
}
