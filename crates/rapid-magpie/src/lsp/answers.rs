//! What an editor asks of a rulebook's text, and the answers.

use super::text::{Document, Encoding};
use crate::files::beside;
use lsp_server::ErrorCode;
use lsp_types::{Position, Range, SemanticToken, SemanticTokens};
use magpie_core::rulebook::document::{Analysis, Group, Occurrence, Part};
use magpie_core::rulebook::highlight::{Paint, word_before};
use magpie_core::rulebook::meetings::{Entered, decided_by, meet, verb_words};
use magpie_core::rulebook::{Code, Diagnostic, KindId, Scenario, Severity, Span, format};
use magpie_core::tape::run_scenario;
use percent_encoding::percent_decode_str;
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::value::{RawValue, to_raw_value};
use serde_json::{Value, json};
use std::collections::HashMap;
use std::fmt::Write as _;

/// A code and why.
pub type Refused = (i32, String);
/// LSP's code for a request that cannot be carried out.
const REQUEST_FAILED: i32 = -32_803;

/// The sorts of semantic tokens, by their numbers.
const TOKENS: [&str; 7] = ["comment", "keyword", "variable", "number", "string", "operator", "enumMember"];

/// A session with an editor.
#[derive(Debug)]
pub struct Server {
    encoding: Encoding,
    documents: HashMap<String, Document>,
}

fn part<T: DeserializeOwned>(params: &Value, at: &str) -> Result<T, Refused> {
    let value = params.pointer(at).cloned().unwrap_or(Value::Null);
    serde_json::from_value(value).map_err(|error| (ErrorCode::InvalidParams as i32, format!("{at}: {error}")))
}

impl Server {
    pub fn new(params: &Value) -> Self {
        let list: Vec<String> = part(params, "/capabilities/general/positionEncodings").unwrap_or_default();
        Self { encoding: Encoding::agreed(&list), documents: HashMap::new() }
    }

    pub fn capabilities(&self) -> Value {
        json!({
            "capabilities": {
                "positionEncoding": self.encoding.word(),
                "textDocumentSync": { "openClose": true, "change": 1 },
                "completionProvider": {},
                "hoverProvider": true,
                "definitionProvider": true,
                "referencesProvider": true,
                "renameProvider": { "prepareProvider": true },
                "documentSymbolProvider": true,
                "foldingRangeProvider": true,
                "documentFormattingProvider": true,
                "codeActionProvider": { "codeActionKinds": ["quickfix"] },
                "semanticTokensProvider": {
                    "legend": { "tokenTypes": TOKENS, "tokenModifiers": [] }, "full": true
                },
                "inlayHintProvider": true,
                "codeLensProvider": {},
            },
            "serverInfo": { "name": "rapid-magpie", "version": env!("CARGO_PKG_VERSION") },
        })
    }

    /// What is to be told of a document after a notification about it.
    pub fn hear(&mut self, method: &str, params: &Value) -> Option<Value> {
        let uri: String = part(params, "/textDocument/uri").ok()?;
        let version: i32 = part(params, "/textDocument/version").unwrap_or_default();
        match method {
            "textDocument/didOpen" => {
                let text = part(params, "/textDocument/text").ok()?;
                self.documents.insert(uri.clone(), read(&uri, text));
            }
            "textDocument/didChange" => {
                // Documents come whole: the last change is the text.
                let changes: Vec<Value> = part(params, "/contentChanges").ok()?;
                let text: String = part(changes.last()?, "/text").ok()?;
                self.documents.insert(uri.clone(), read(&uri, text));
            }
            "textDocument/didClose" => {
                self.documents.remove(&uri);
                return Some(json!({ "uri": uri, "diagnostics": [] }));
            }
            _ => return None,
        }
        let document = self.documents.get(&uri)?;
        let found = document.read.diagnostics().iter();
        let all: Vec<Value> = found.map(|found| diagnostic(found, document, self.encoding)).collect();
        Some(json!({ "uri": uri, "version": version, "diagnostics": all }))
    }

    /// The answer to a request.
    pub fn answer(&self, method: &str, params: &Value) -> Result<Box<RawValue>, Refused> {
        const KNOWN: [&str; 13] = [
            "textDocument/completion",
            "textDocument/hover",
            "textDocument/definition",
            "textDocument/references",
            "textDocument/prepareRename",
            "textDocument/rename",
            "textDocument/documentSymbol",
            "textDocument/foldingRange",
            "textDocument/formatting",
            "textDocument/codeAction",
            "textDocument/semanticTokens/full",
            "textDocument/inlayHint",
            "textDocument/codeLens",
        ];
        if !KNOWN.contains(&method) {
            return Err((ErrorCode::MethodNotFound as i32, format!("no method `{method}`")));
        }
        let uri: String = part(params, "/textDocument/uri")?;
        let document = self.documents.get(&uri);
        let document = document.ok_or_else(|| (ErrorCode::InvalidParams as i32, format!("`{uri}` is not open")))?;
        let ask = Ask { document, uri: &uri, encoding: self.encoding };
        let at = || part::<Position>(params, "/position").map(|at| document.byte(at, self.encoding));
        let answer = match method {
            "textDocument/completion" => ask.completion(at()?),
            "textDocument/hover" => ask.hover(at()?),
            "textDocument/definition" => ask.places(at()?, |one| one.declares),
            "textDocument/references" => {
                let too: bool = part(params, "/context/includeDeclaration").unwrap_or(true);
                ask.places(at()?, |one| too || !one.declares)
            }
            "textDocument/prepareRename" => ask.prepare(at()?),
            "textDocument/rename" => ask.rename(at()?, &part::<String>(params, "/newName")?)?,
            "textDocument/documentSymbol" => ask.symbols(),
            "textDocument/foldingRange" => ask.folds(),
            "textDocument/formatting" => ask.formatted(),
            "textDocument/codeAction" => ask.fixes(part(params, "/range")?),
            // A million of numbers, which are better not made values one by one.
            "textDocument/semanticTokens/full" => return written(&ask.tokens()),
            "textDocument/inlayHint" => ask.hints(),
            _ => ask.lenses(),
        };
        written(&answer)
    }
}

fn written(answer: &impl Serialize) -> Result<Box<RawValue>, Refused> {
    to_raw_value(answer).map_err(|error| (ErrorCode::InternalError as i32, error.to_string()))
}

/// Reads a document; of files only maps that lie beside it.
fn read(uri: &str, text: String) -> Document {
    let decoded = |path: &str| std::path::PathBuf::from(percent_decode_str(path).decode_utf8_lossy().as_ref());
    let path = uri.strip_prefix("file://").map(decoded);
    Document::new(text, &|name| match &path {
        Some(path) => beside(path, name),
        None => Err(format!("`{name}`: this document lies in no folder")),
    })
}

fn diagnostic(found: &Diagnostic, document: &Document, encoding: Encoding) -> Value {
    let help = found.help.as_ref().map_or(String::new(), |help| format!("\n{help}"));
    json!({
        "range": document.range(found.span, encoding),
        "severity": if found.code.severity() == Severity::Error { 1 } else { 2 },
        "code": found.code.word(),
        "source": "rapid-magpie",
        "message": format!("{}{help}", found.message),
    })
}

/// A request about a document.
struct Ask<'d> {
    document: &'d Document,
    uri: &'d str,
    encoding: Encoding,
}

impl Ask<'_> {
    fn text(&self) -> &str {
        self.document.text()
    }

    const fn read(&self) -> &Analysis {
        &self.document.read
    }

    fn range(&self, span: Span) -> Range {
        self.document.range(span, self.encoding)
    }

    fn completion(&self, at: usize) -> Value {
        let range = self.range(Span::new(word_before(self.text(), at), at));
        let item = |word: String| json!({ "label": word, "textEdit": { "range": range, "newText": word } });
        self.read().completions(at).into_iter().map(item).collect()
    }

    fn hover(&self, at: usize) -> Value {
        let said = |text: String, span: Span| json!({ "contents": { "kind": "plaintext", "value": text }, "range": self.range(span) });
        if let Some((here, _)) = self.read().same_names(at) {
            let name = &self.text()[here.span.start..here.span.end];
            return said(self.of_name(name, here.group), here.span);
        }
        let Some((span, says)) = self.read().word_at(at) else { return Value::Null };
        let clause = self.of_clause(at).map_or(String::new(), |told| format!("\n{}", told.join("\n")));
        said(format!("{says}{clause}\ndocs/language.md, section 10"), span)
    }

    /// What is known of the clause at a byte.
    fn of_clause(&self, at: usize) -> Option<Vec<String>> {
        let (book, clause) = self.read().rulebook().zip(self.read().clause_at(at))?;
        Some(decided_by(book, clause).words(book))
    }

    /// What is known of a name.
    fn of_name(&self, name: &str, group: Group) -> String {
        let sort = match group {
            Group::Kind => "a kind or a group",
            Group::Layer => "a layer",
            Group::Counter => "a counter",
            Group::Timer => "a timer",
            Group::Shape => "a shape",
            Group::Map => "a map",
        };
        let book = self.read().rulebook().filter(|_| group == Group::Kind);
        let kind = book.and_then(|book| Some((book, book.kind_of_name(name)?)));
        let Some((book, id)) = kind else { return format!("`{name}`: {sort}") };
        let kind = book.kind(id);
        let mut text = format!(
            "`{name}`: a kind, drawn as `{}`, of the layer {}",
            kind.glyph,
            book.layers[usize::from(kind.layer)]
        );
        for (number, map) in book.maps.iter().enumerate() {
            let count = magpie_core::grid::drawn(book, number).count(id);
            let _ = write!(text, "\n{count} on \"{}\"", map.title);
        }
        for (at, other) in book.kinds.iter().enumerate() {
            let met = KindId(at as u16);
            let found = meet(book, id, Entered::Kind(met));
            if let Some(clause) = found.clause {
                let line = book.meeting(clause).at.line;
                let _ = write!(text, "\ninto {}: {} (line {line})", other.name, verb_words(book, found.verb));
            }
        }
        text
    }

    fn places(&self, at: usize, wanted: impl Fn(&Occurrence) -> bool) -> Value {
        let Some((_, same)) = self.read().same_names(at) else { return Value::Null };
        let place = |one: &Occurrence| json!({ "uri": self.uri, "range": self.range(one.span) });
        same.into_iter().filter(|one| wanted(one)).map(place).collect()
    }

    fn prepare(&self, at: usize) -> Value {
        self.read().renamable(at).map_or(Value::Null, |(here, _)| json!(self.range(here.span)))
    }

    fn rename(&self, at: usize, new: &str) -> Result<Value, Refused> {
        let (here, same) = self.read().renamable(at).map_err(|why| (REQUEST_FAILED, why))?;
        if let Some(why) = self.read().why_not_renamed(here.group, new) {
            return Err((REQUEST_FAILED, why));
        }
        let edits: Vec<Value> =
            same.iter().map(|one| json!({ "range": self.range(one.span), "newText": new })).collect();
        Ok(json!({ "changes": { self.uri: edits } }))
    }

    fn symbols(&self) -> Value {
        // Namespace, enumeration member and class: what editors have a picture for.
        let symbol = |part: &Part, kind: u8, children: Vec<Value>| {
            json!({
                "name": part.name, "detail": part.sort, "kind": kind,
                "range": self.range(part.span), "selectionRange": self.range(part.at), "children": children,
            })
        };
        self.read()
            .outline()
            .iter()
            .map(|(part, parts)| {
                let inner = parts.iter().map(|part| symbol(part, 22, Vec::new())).collect();
                symbol(part, if parts.is_empty() { 5 } else { 3 }, inner)
            })
            .collect()
    }

    fn folds(&self) -> Value {
        let fold = |span: Span| {
            let range = self.range(span);
            (range.end.line > range.start.line)
                .then(|| json!({ "startLine": range.start.line, "endLine": range.end.line }))
        };
        self.read().outline().iter().filter_map(|(part, _)| fold(part.span)).collect()
    }

    fn formatted(&self) -> Value {
        match format(self.text()) {
            Some(new) if new != self.text() => {
                json!([{ "range": self.document.whole(self.encoding), "newText": new }])
            }
            Some(_) => json!([]),
            None => Value::Null,
        }
    }

    /// Where the help names a word, that word in place of the wrong one.
    fn fixes(&self, asked: Range) -> Value {
        let fix = |found: &Diagnostic| {
            let range = self.range(found.span);
            let word = found.help.as_ref()?.strip_prefix("did you mean `")?.split('`').next()?.to_owned();
            let touches = range.start <= asked.end && asked.start <= range.end;
            touches.then(|| {
                json!({
                    "title": format!("write `{word}`"),
                    "kind": "quickfix",
                    "diagnostics": [diagnostic(found, self.document, self.encoding)],
                    "edit": { "changes": { self.uri: [{ "range": range, "newText": word }] } },
                })
            })
        };
        self.read().diagnostics().iter().filter_map(fix).collect()
    }

    fn tokens(&self) -> SemanticTokens {
        let mut data = Vec::new();
        let mut before = Position::new(0, 0);
        for part in self.read().painted() {
            let token_type = match part.paint {
                Paint::Comment => 0,
                Paint::Section | Paint::Word => 1,
                Paint::Name => 2,
                Paint::Number => 3,
                Paint::Text => 4,
                Paint::Symbol => 5,
                Paint::Glyph => 6,
                Paint::Wrong => continue,
            };
            let at = self.document.position(part.span.start, self.encoding);
            let text = self.text().get(part.span.start..part.span.end).unwrap_or_default();
            let length = self.encoding.length(text.lines().next().unwrap_or_default()) as u32;
            let delta_line = at.line - before.line;
            let delta_start = if delta_line == 0 { at.character - before.character } else { at.character };
            data.push(SemanticToken { delta_line, delta_start, length, token_type, token_modifiers_bitset: 0 });
            before = at;
        }
        SemanticTokens { result_id: None, data }
    }

    /// The size of every map behind its title; of a clause that never decides, why.
    fn hints(&self) -> Value {
        let Some(book) = self.read().rulebook() else { return json!([]) };
        let titles = self.read().names().iter().filter(|one| one.group == Group::Map && one.declares);
        let hint = |byte: usize, label: String| json!({ "position": self.document.position(byte, self.encoding), "label": label, "paddingLeft": true });
        let sized = titles
            .zip(&book.maps)
            .map(|(title, map)| hint(title.span.end + 1, format!("{} x {}", map.extent.columns, map.extent.rows)));
        let hidden = self.read().diagnostics().iter().filter(|found| found.code == Code::UnreachableClause);
        let never = hidden.map(|found| {
            let rest = &self.text()[found.span.start..];
            let end = rest.find(['\r', '\n']).unwrap_or(rest.len());
            // Of clauses about leaving a cell only the warning is known.
            let why =
                self.of_clause(found.span.start).map_or_else(|| found.message.clone(), |told| told[1..].join("; "));
            hint(found.span.start + end, format!("never decides: {why}"))
        });
        sized.chain(never).collect()
    }

    /// The verdict of every scenario above it.
    fn lenses(&self) -> Value {
        let Some(book) = self.read().rulebook() else { return json!([]) };
        let lens = |scenario: &Scenario| {
            let line = scenario.line;
            let failed = match run_scenario(book, scenario) {
                Ok(report) => report.failures.first().map(|failure| failure.line),
                Err(_) => Some(line),
            };
            let title = failed.map_or("test: passed".to_owned(), |line| format!("test: failed, line {line}"));
            let at = Position::new(line - 1, 0);
            json!({ "range": Range::new(at, at), "command": { "title": title, "command": "" } })
        };
        book.scenarios.iter().map(lens).collect()
    }
}
