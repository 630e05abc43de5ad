//! What the document says of every operation alike: refusals are problem documents (RFC 9457), whatever their status.

use crate::problem::{PROBLEM_JSON, Problem};
use utoipa::openapi::{Content, OpenApi, Ref, RefOr, Response, ResponseBuilder};
use utoipa::{PartialSchema, ToSchema};

fn is_problem(content: &RefOr<Content>) -> bool {
    let RefOr::T(content) = content else { return false };
    matches!(&content.schema, Some(RefOr::Ref(Ref { ref_location, .. })) if ref_location.ends_with("/Problem"))
}

fn refusal() -> Response {
    let problem = Ref::from_schema_name(Problem::name());
    ResponseBuilder::new()
        .description("Refused: what happened, and what would work")
        .content(PROBLEM_JSON, Content::new(Some(problem)))
        .build()
}

/// The document as answers are: refusals bear their own media type, and every operation may refuse.
pub(crate) fn as_served(mut document: OpenApi) -> OpenApi {
    if let Some(components) = &mut document.components {
        components.schemas.entry(Problem::name().into()).or_insert_with(Problem::schema);
    }
    for item in document.paths.paths.values_mut() {
        let all = [&mut item.get, &mut item.put, &mut item.post, &mut item.delete, &mut item.patch];
        for operation in all.into_iter().flatten() {
            for response in operation.responses.responses.values_mut() {
                let RefOr::T(response) = response else { continue };
                if response.content.get("application/json").is_some_and(is_problem)
                    && let Some(content) = response.content.swap_remove("application/json")
                {
                    response.content.insert(PROBLEM_JSON.into(), content);
                }
            }
            operation.responses.responses.entry("default".into()).or_insert_with(|| RefOr::T(refusal()));
        }
    }
    document
}
