//! The instructions of the functions under way, as addresses that a client can ask about.

use quillon_core::debugging::Stopped;
use serde_json::{Value, json};

use super::answers::source_of;

/// So many addresses are there for each call under way.
const ROOM: i64 = 1 << 32;

/// The address of an instruction of a call, by the number of the call.
pub fn address(call: usize, at: usize) -> String {
    written((call as i64 + 1) * ROOM + at as i64)
}

fn written(address: i64) -> String {
    format!("{address:#x}")
}

/// As many instructions as are asked for, around an address.
///
/// # Errors
/// The address is none that has been told.
pub fn told(at: &Stopped<'_, '_, '_>, arguments: &Value) -> Result<Value, String> {
    let unknown = "no instruction is at this address";
    let address = arguments["memoryReference"].as_str().and_then(|text| {
        let digits = text.strip_prefix("0x")?;
        i64::from_str_radix(digits, 16).ok()
    });
    let address = address.ok_or(unknown)?;
    let call = usize::try_from(address / ROOM - 1).map_err(|_| unknown)?;
    let lines = at.instructions(call).ok_or(unknown)?;
    let number = |name: &str| arguments[name].as_i64().unwrap_or_default();
    let wanted = (address % ROOM).saturating_add(number("offset"));
    let here = lines.partition_point(|line| (line.address as i64) < wanted) as i64;
    let first = here.saturating_add(number("instructionOffset"));
    let count = number("instructionCount").clamp(0, 4096);
    let base = (call as i64 + 1) * ROOM;
    let calls = at.calls();
    let source = calls.get(call).map(|call| source_of(&call.source));
    let each = (first..first.saturating_add(count)).map(|index| {
        let line = usize::try_from(index)
            .ok()
            .and_then(|index| lines.get(index));
        let Some(line) = line else {
            // Before the first and behind the last there is nothing.
            let away = if index < 0 { 0 } else { ROOM / 2 };
            return json!({
                "address": written((base + away).saturating_add(index)),
                "instruction": "",
                "presentationHint": "invalid",
            });
        };
        let bytes: Vec<String> = line
            .bytes
            .iter()
            .map(|byte| format!("{byte:02x}"))
            .collect();
        json!({
            "address": written(base + line.address as i64),
            "instructionBytes": bytes.join(" "),
            "instruction": format!("{} {}", line.mnemonic, line.operands.join(", ")).trim_end(),
            "symbol": line.label,
            "location": source,
            "line": line.line,
            "column": line.column,
        })
    });
    Ok(json!({ "instructions": each.collect::<Vec<_>>() }))
}
