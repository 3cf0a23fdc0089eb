//! Answers and refusals of JSON-RPC 2.0.

use serde_json::{Value, json};

/// What is no JSON.
pub const PARSE: i64 = -32_700;
/// What is no request.
pub const INVALID: i64 = -32_600;
/// No method of this name.
pub const NO_METHOD: i64 = -32_601;
/// Parameters that do not fit, or name nothing that is there.
pub const PARAMS: i64 = -32_602;
/// A fault of ours.
pub const INTERNAL: i64 = -32_603;
/// A limit of the server.
pub const SERVER: i64 = -32_000;
/// A rulebook with mistakes.
pub const MISTAKES: i64 = 1;

/// Why a call was refused.
#[derive(Debug)]
pub struct Refusal {
    /// The code.
    pub code: i64,
    /// In words.
    pub message: String,
    /// More, where there is any.
    pub data: Option<Value>,
}

impl Refusal {
    /// Parameters that do not fit.
    pub fn params(why: impl std::fmt::Display) -> Self {
        Self { code: PARAMS, message: why.to_string(), data: None }
    }

    /// A limit, or a fault, of ours.
    pub fn of(code: i64, why: impl std::fmt::Display) -> Self {
        Self { code, message: why.to_string(), data: None }
    }

    /// The answer to a call.
    pub fn answer(self, id: &Value) -> Value {
        let mut error = json!({ "code": self.code, "message": self.message });
        if let Some(data) = self.data {
            error["data"] = data;
        }
        json!({ "jsonrpc": "2.0", "error": error, "id": id })
    }
}

/// A refusal that belongs to no call.
pub fn refusal(code: i64, why: &str) -> Value {
    Refusal::of(code, why).answer(&Value::Null)
}

/// The answer to a call that was carried out.
pub fn result(value: &Value, id: &Value) -> Value {
    json!({ "jsonrpc": "2.0", "result": value, "id": id })
}

/// What every connection is told before the server ends.
pub fn closing() -> Value {
    json!({ "jsonrpc": "2.0", "method": "closing" })
}
