//! Which request is answered by what.

use lsp_server::{ErrorCode, Request, Response};
use lsp_types::request::{
    CodeActionRequest, CodeLensRequest, Completion, DocumentHighlightRequest,
    DocumentSymbolRequest, FoldingRangeRequest, Formatting, GotoDefinition, HoverRequest,
    Initialize, InlayHintRequest, OnTypeFormatting, PrepareRenameRequest, RangeFormatting,
    References, Rename, SelectionRangeRequest, SemanticTokensFullRequest, Shutdown,
    SignatureHelpRequest,
};
use lsp_types::{
    CodeActionKind, CodeActionOptions, CodeActionProviderCapability, CodeLensOptions,
    CompletionOptions, DocumentOnTypeFormattingOptions, ExecuteCommandOptions,
    FoldingRangeProviderCapability, HoverProviderCapability, InitializeParams, InitializeResult,
    OneOf, PrepareRenameResponse, RenameOptions, RenameParams, SelectionRangeProviderCapability,
    SemanticTokensFullOptions, SemanticTokensOptions, SemanticTokensServerCapabilities,
    ServerCapabilities, ServerInfo, SignatureHelpOptions, TextDocumentPositionParams,
    TextDocumentSyncCapability, TextDocumentSyncKind, WorkspaceEdit,
};

use super::positions::Unit;
use super::server::Server;
use super::{cases, definitions, formatting, lenses, notation, programs, writing};

/// Why a request has no answer.
pub struct Refusal {
    pub code: ErrorCode,
    pub message: String,
}

impl Refusal {
    /// What was asked for cannot be done.
    pub fn failed(message: impl Into<String>) -> Refusal {
        Refusal {
            code: ErrorCode::RequestFailed,
            message: message.into(),
        }
    }
}

impl Server {
    /// Answers a request; nothing when the answer comes later.
    pub fn answer(&mut self, request: Request) -> Option<Response> {
        if lenses::is_command(&request) {
            return lenses::execute(self, request);
        }
        Some(self.answer_now(request))
    }

    fn answer_now(&mut self, request: Request) -> Response {
        // Of several answers the first that is one: each is about texts of its sort.
        macro_rules! answered {
            ($($kind:ty => [$($answer:path),+],)*; $($plain:ty => $only:expr,)*; $($other:ty => $refusable:expr,)*) => {
                match request.method.as_str() {
                    $(<$kind as lsp_types::request::Request>::METHOD => {
                        answered::<$kind>(self, request, |server, params| {
                            Ok(None$(.or_else(|| $answer(server, params)))+)
                        })
                    })*
                    $(<$plain as lsp_types::request::Request>::METHOD => {
                        answered::<$plain>(self, request, |server, params| Ok($only(server, params)))
                    })*
                    $(<$other as lsp_types::request::Request>::METHOD => {
                        answered::<$other>(self, request, $refusable)
                    })*
                    _ => super::unknown(request),
                }
            };
        }
        answered! {
            HoverRequest => [definitions::hover, cases::hover, programs::hover],
            GotoDefinition => [definitions::definition, cases::definition, programs::definition],
            References => [definitions::references, programs::references],
            DocumentHighlightRequest => [definitions::highlights, programs::highlights],
            DocumentSymbolRequest => [definitions::symbols, programs::symbols],
            FoldingRangeRequest => [definitions::foldings, programs::foldings],
            SelectionRangeRequest => [notation::selections, programs::selections],
            SemanticTokensFullRequest => [notation::colours, programs::colours],
            Completion => [definitions::completion, cases::completion, writing::completion],
            SignatureHelpRequest => [definitions::signature, writing::signature],
            CodeActionRequest => [writing::actions],
            CodeLensRequest => [lenses::lenses],
            OnTypeFormatting => [formatting::line_of_notation, formatting::line],
            InlayHintRequest => [definitions::hints, writing::hints],
            ;
            Initialize => initialized,
            Shutdown => |server: &mut Server, (): &()| server.shut_down(),
            ;
            PrepareRenameRequest => renamable,
            Rename => renamed,
            Formatting => formatting::file,
            RangeFormatting => formatting::stretch,
        }
    }
}

fn renamable(
    server: &mut Server,
    params: &TextDocumentPositionParams,
) -> Result<Option<PrepareRenameResponse>, Refusal> {
    let found = definitions::renamable(server, params);
    match found.or_else(|| cases::renamable(server, params)) {
        Some(found) => found.map(Some),
        None => writing::renamable(server, params),
    }
}

fn renamed(server: &mut Server, params: &RenameParams) -> Result<Option<WorkspaceEdit>, Refusal> {
    let renamed = definitions::renamed(server, params);
    match renamed.or_else(|| cases::renamed(server, params)) {
        Some(renamed) => renamed.map(Some),
        None => writing::renamed(server, params),
    }
}

fn answered<R: lsp_types::request::Request>(
    server: &mut Server,
    request: Request,
    answer: impl FnOnce(&mut Server, &R::Params) -> Result<R::Result, Refusal>,
) -> Response
where
    R::Params: serde::de::DeserializeOwned,
    R::Result: serde::Serialize,
{
    let params: R::Params = match serde_json::from_value(request.params) {
        Ok(params) => params,
        Err(error) => {
            let code = ErrorCode::InvalidParams as i32;
            return Response::new_err(request.id, code, error.to_string());
        }
    };
    match answer(server, &params) {
        Ok(result) => Response::new_ok(request.id, result),
        Err(refusal) => Response::new_err(request.id, refusal.code as i32, refusal.message),
    }
}

fn initialized(server: &mut Server, params: &InitializeParams) -> InitializeResult {
    let general = params.capabilities.general.as_ref();
    let units = general.and_then(|general| general.position_encodings.as_deref());
    server.unit = Unit::agreed(units.unwrap_or_default());
    let workspace = params.capabilities.workspace.as_ref();
    let hints = workspace.and_then(|workspace| workspace.inlay_hint.as_ref());
    server.can.refresh_hints = hints.is_some_and(|hints| hints.refresh_support == Some(true));
    let lenses = workspace.and_then(|workspace| workspace.code_lens.as_ref());
    server.can.refresh_lenses = lenses.is_some_and(|lenses| lenses.refresh_support == Some(true));
    server.can.apply_edits = workspace.is_some_and(|workspace| workspace.apply_edit == Some(true));
    InitializeResult {
        capabilities: ServerCapabilities {
            position_encoding: Some(server.unit.kind()),
            text_document_sync: Some(TextDocumentSyncCapability::Kind(
                TextDocumentSyncKind::INCREMENTAL,
            )),
            hover_provider: Some(HoverProviderCapability::Simple(true)),
            definition_provider: Some(OneOf::Left(true)),
            references_provider: Some(OneOf::Left(true)),
            document_highlight_provider: Some(OneOf::Left(true)),
            document_symbol_provider: Some(OneOf::Left(true)),
            folding_range_provider: Some(FoldingRangeProviderCapability::Simple(true)),
            selection_range_provider: Some(SelectionRangeProviderCapability::Simple(true)),
            inlay_hint_provider: Some(OneOf::Left(true)),
            document_formatting_provider: Some(OneOf::Left(true)),
            document_range_formatting_provider: Some(OneOf::Left(true)),
            document_on_type_formatting_provider: Some(DocumentOnTypeFormattingOptions {
                first_trigger_character: formatting::FIRST_TRIGGER.to_owned(),
                more_trigger_character: Some(formatting::MORE_TRIGGERS.map(str::to_owned).to_vec()),
            }),
            code_lens_provider: Some(CodeLensOptions {
                resolve_provider: Some(false),
            }),
            execute_command_provider: Some(ExecuteCommandOptions {
                commands: lenses::COMMANDS.map(str::to_owned).to_vec(),
                ..ExecuteCommandOptions::default()
            }),
            completion_provider: Some(CompletionOptions::default()),
            signature_help_provider: Some(SignatureHelpOptions {
                trigger_characters: Some(vec!["(".to_owned(), ",".to_owned()]),
                ..SignatureHelpOptions::default()
            }),
            rename_provider: Some(OneOf::Right(RenameOptions {
                prepare_provider: Some(true),
                work_done_progress_options: lsp_types::WorkDoneProgressOptions::default(),
            })),
            code_action_provider: Some(CodeActionProviderCapability::Options(CodeActionOptions {
                code_action_kinds: Some(vec![CodeActionKind::QUICKFIX]),
                ..CodeActionOptions::default()
            })),
            semantic_tokens_provider: Some(
                SemanticTokensServerCapabilities::SemanticTokensOptions(SemanticTokensOptions {
                    legend: programs::legend(),
                    full: Some(SemanticTokensFullOptions::Bool(true)),
                    ..SemanticTokensOptions::default()
                }),
            ),
            ..ServerCapabilities::default()
        },
        server_info: Some(ServerInfo {
            name: "quillon".to_owned(),
            version: Some(env!("CARGO_PKG_VERSION").to_owned()),
        }),
    }
}
