#pragma once
// Words that the trade has better ones for, and how they are found. A header of its own: moc stumbles over such
// strings.

#include <QRegularExpression>
#include <QStringList>

namespace noonward::test {

/// What was said instead of the trade's word, and must not come back.
inline const char* const gone[] = {
    R"(\bFoot\b)",
    R"(° (high|round)\b)",
    R"([Ll]ight model\b)",
    R"(\b[Cc]loth\b)",
    R"([Cc]ertain means)",
    R"(Enough light)",
    R"(In so many hours)",
    R"(Beam of ASE)",
    R"((In|On) more than$)",
    R"((?<!at )\b(least|most) (\{|%\d))",
    R"(\bweighed\b)",
    R"([Uu]seful illuminance)",
    R"(Belongs to)",
    R"(For rules)",
    R"((Mirrored|Scattered) part)",
    R"(Glass in frame)",
    R"(Strip (from|to)\b)",
    R"(^Strength$)",
    R"(Set off\b)",
    R"(Give it to|Take it back|Put it in\b|Bring it in|Keep it so|^Leave it$)",
    R"(\bbrim\b)",
    R"([Dd]rawing's up)",
    R"([Dd]raw a block)",
    R"([Bb]y ratio$)",
    R"([Ll]ay against)",
    R"(bends (the|its) result)",
    R"(Assessor|^Owner$)",
    R"(, locked|Copy to edit)",
    R"(Windows a wall)",
    R"(▼)",
    R"(Lantern Hill)",
};

/// What of it a text has.
inline QStringList faultsIn(const QString& text) {
  QStringList out;
  for (const char* pattern : gone)
    if (QRegularExpression(pattern).match(text).hasMatch()) out << QString("%1 in “%2”").arg(pattern, text.left(100));
  return out;
}

/// A string of a source file.
inline const QRegularExpression literal(R"re("((?:[^"\\\n]|\\.)*)")re");
/// A count with a word that is plural whatever the count.
inline const QRegularExpression plainCount(
    R"re("[^"]*(?<!of )(?<!most )(?<!than )\{\} (elements|rooms|windows|sensors|faces|panes|groups|runs|files|layers|openings)\b[^"]*")re");

} // namespace noonward::test
