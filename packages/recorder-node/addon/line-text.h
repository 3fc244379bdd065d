#ifndef BRISK_HERON_LINE_TEXT_H
#define BRISK_HERON_LINE_TEXT_H

#include <cstdint>
#include <string>
#include <string_view>

namespace heron {

/** Builds one line of the open stream: `LineText("gc", heap).number("t", 1.5).text("label", …).end()`. Times keep three decimals. */
class LineText {
 public:
  LineText(std::string_view kind, std::string_view heap);
  LineText& number(std::string_view key, double value);
  LineText& text(std::string_view key, std::string_view value);
  LineText& flag(std::string_view key);
  /** Begins an array; its members follow by `item`, `itemText`, and `close` ends it. */
  LineText& open(std::string_view key);
  LineText& item(double value);
  LineText& item(uint64_t value);
  LineText& itemText(std::string_view value);
  /** A member that is JSON already. */
  LineText& itemJson(std::string_view json);
  LineText& close();
  /** The whole line with its newline. */
  std::string end();

 private:
  void key(std::string_view key);
  void comma();
  std::string out;
  bool first = false;
};

/** Appends a string as JSON, quotes included. Bytes above 127 are passed on as they are. */
void appendJsonText(std::string& out, std::string_view text);

/** Appends a number: whole ones as such, others with three decimals; what is not finite becomes 0. */
void appendNumber(std::string& out, double value);

}  // namespace heron

#endif
