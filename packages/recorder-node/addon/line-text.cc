#include "line-text.h"

#include <charconv>
#include <cmath>
#include <cstdio>

namespace heron {

namespace {
constexpr double kMostWhole = 9007199254740992.0;

void appendWhole(std::string& out, uint64_t value) {
  char digits[24];
  const auto result = std::to_chars(digits, digits + sizeof digits, value);
  out.append(digits, result.ptr);
}
}  // namespace

void appendNumber(std::string& out, double value) {
  if (!std::isfinite(value)) value = 0;
  if (value < 0) {
    out.push_back('-');
    value = -value;
  }
  if (value > kMostWhole) value = kMostWhole;
  double whole = std::floor(value);
  unsigned thousandths = static_cast<unsigned>(std::lround((value - whole) * 1000));
  if (thousandths == 1000) {
    whole += 1;
    thousandths = 0;
  }
  appendWhole(out, static_cast<uint64_t>(whole));
  if (thousandths == 0) return;
  const char digits[4] = {'.', static_cast<char>('0' + thousandths / 100), static_cast<char>('0' + thousandths / 10 % 10), static_cast<char>('0' + thousandths % 10)};
  out.append(digits, 4);
}

void appendJsonText(std::string& out, std::string_view text) {
  out.push_back('"');
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (c == '"' || c == '\\') {
      out.push_back('\\');
      out.push_back(c);
    } else if (byte < 0x20) {
      char escaped[8];
      std::snprintf(escaped, sizeof escaped, "\\u%04x", byte);
      out.append(escaped);
    } else {
      out.push_back(c);
    }
  }
  out.push_back('"');
}

LineText::LineText(std::string_view kind, std::string_view heap) {
  out.append("{\"k\":\"").append(kind).append("\",\"h\":");
  appendJsonText(out, heap);
}

void LineText::key(std::string_view key) {
  out.append(",\"").append(key).append("\":");
}

void LineText::comma() {
  if (!first) out.push_back(',');
  first = false;
}

LineText& LineText::number(std::string_view name, double value) {
  key(name);
  appendNumber(out, value);
  return *this;
}

LineText& LineText::text(std::string_view name, std::string_view value) {
  key(name);
  appendJsonText(out, value);
  return *this;
}

LineText& LineText::flag(std::string_view name) {
  key(name);
  out.append("true");
  return *this;
}

LineText& LineText::open(std::string_view name) {
  key(name);
  out.push_back('[');
  first = true;
  return *this;
}

LineText& LineText::item(double value) {
  comma();
  appendNumber(out, value);
  return *this;
}

LineText& LineText::item(uint64_t value) {
  comma();
  appendWhole(out, value);
  return *this;
}

LineText& LineText::itemText(std::string_view value) {
  comma();
  appendJsonText(out, value);
  return *this;
}

LineText& LineText::itemJson(std::string_view json) {
  comma();
  out.append(json);
  return *this;
}

LineText& LineText::close() {
  out.push_back(']');
  first = false;
  return *this;
}

std::string LineText::end() {
  out.append("}\n");
  return std::move(out);
}

}  // namespace heron
