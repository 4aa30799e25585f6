#include "exr.h"

#include <ImfBoxAttribute.h>
#include <ImfChromaticitiesAttribute.h>
#include <ImfDoubleAttribute.h>
#include <ImfFloatAttribute.h>
#include <ImfIntAttribute.h>
#include <ImfMatrixAttribute.h>
#include <ImfRationalAttribute.h>
#include <ImfStringAttribute.h>
#include <ImfStringVectorAttribute.h>
#include <ImfTimeCodeAttribute.h>
#include <ImfVecAttribute.h>

#include <cstdio>

#include <stdexcept>

namespace shale {

namespace {

const std::pair<Imf::Compression, const char*> compressions[] = {
    {Imf::NO_COMPRESSION, "NONE"},   {Imf::RLE_COMPRESSION, "RLE"},     {Imf::ZIPS_COMPRESSION, "ZIPS"},
    {Imf::ZIP_COMPRESSION, "ZIP"},   {Imf::PIZ_COMPRESSION, "PIZ"},     {Imf::PXR24_COMPRESSION, "PXR24"},
    {Imf::B44_COMPRESSION, "B44"},   {Imf::B44A_COMPRESSION, "B44A"},   {Imf::DWAA_COMPRESSION, "DWAA"},
    {Imf::DWAB_COMPRESSION, "DWAB"},
};

// The attribute's value as numbers, if it is of a type that has them.
bool numbersOf(const Imf::Attribute& attribute, std::vector<double>& out) {
  if (auto* a = dynamic_cast<const Imf::IntAttribute*>(&attribute)) out = {double(a->value())};
  else if (auto* a = dynamic_cast<const Imf::FloatAttribute*>(&attribute)) out = {a->value()};
  else if (auto* a = dynamic_cast<const Imf::DoubleAttribute*>(&attribute)) out = {a->value()};
  else if (auto* a = dynamic_cast<const Imf::RationalAttribute*>(&attribute)) out = {double(a->value().n), double(a->value().d)};
  else if (auto* a = dynamic_cast<const Imf::V2iAttribute*>(&attribute)) out = {double(a->value().x), double(a->value().y)};
  else if (auto* a = dynamic_cast<const Imf::V2fAttribute*>(&attribute)) out = {a->value().x, a->value().y};
  else if (auto* a = dynamic_cast<const Imf::V3iAttribute*>(&attribute)) out = {double(a->value().x), double(a->value().y), double(a->value().z)};
  else if (auto* a = dynamic_cast<const Imf::V3fAttribute*>(&attribute)) out = {a->value().x, a->value().y, a->value().z};
  else if (auto* a = dynamic_cast<const Imf::Box2iAttribute*>(&attribute)) {
    const auto& box = a->value();
    out = {double(box.min.x), double(box.min.y), double(box.max.x), double(box.max.y)};
  } else if (auto* a = dynamic_cast<const Imf::ChromaticitiesAttribute*>(&attribute)) {
    const auto& c = a->value();
    out = {c.red.x, c.red.y, c.green.x, c.green.y, c.blue.x, c.blue.y, c.white.x, c.white.y};
  } else if (auto* a = dynamic_cast<const Imf::M44fAttribute*>(&attribute)) {
    for (int row = 0; row < 4; ++row)
      for (int column = 0; column < 4; ++column) out.push_back(a->value()[row][column]);
  } else return false;
  return true;
}

std::string timecodeText(const Imf::TimeCode& code) {
  char text[24];
  snprintf(text, sizeof text, "%02d:%02d:%02d%c%02d", code.hours(), code.minutes(), code.seconds(),
           code.dropFrame() ? ';' : ':', code.frame());
  return text;
}

}  // namespace

const char* compressionName(Imf::Compression compression) {
  for (const auto& [value, name] : compressions)
    if (value == compression) return name;
  return "unknown";
}

Imf::Compression compressionByName(const std::string& wanted) {
  for (const auto& [value, name] : compressions)
    if (wanted == name) return value;
  throw std::invalid_argument("no OpenEXR compression is called " + wanted);
}

std::vector<Attribute> attributesOf(const Imf::Header& header) {
  std::vector<Attribute> list;
  for (auto it = header.begin(); it != header.end(); ++it) {
    const Imf::Attribute& attribute = it.attribute();
    Attribute one{it.name(), attribute.typeName(), std::string()};
    std::vector<double> numbers;
    if (auto* text = dynamic_cast<const Imf::StringAttribute*>(&attribute)) one.value = text->value();
    else if (auto* code = dynamic_cast<const Imf::TimeCodeAttribute*>(&attribute)) one.value = timecodeText(code->value());
    else if (numbersOf(attribute, numbers)) one.value = numbers;
    else continue;
    list.push_back(std::move(one));
  }
  return list;
}

namespace {

// How many numbers each type has.
const std::pair<const char*, size_t> lengths[] = {
    {"int", 1}, {"float", 1}, {"double", 1}, {"rational", 2}, {"v2i", 2},            {"v2f", 2},
    {"v3i", 3}, {"v3f", 3},   {"box2i", 4},  {"m44f", 16},    {"chromaticities", 8},
};

void putText(Imf::Header& header, const Attribute& attribute, const std::string& text) {
  if (attribute.type == "string") {
    header.insert(attribute.name, Imf::StringAttribute(text));
    return;
  }
  int hours, minutes, seconds, frames;
  char mark;
  if (attribute.type != "timecode" || std::sscanf(text.c_str(), "%d:%d:%d%c%d", &hours, &minutes, &seconds, &mark, &frames) != 5)
    throw std::invalid_argument("attribute " + attribute.name + " of type " + attribute.type + " cannot be written as text");
  header.insert(attribute.name, Imf::TimeCodeAttribute(Imf::TimeCode(hours, minutes, seconds, frames, mark == ';')));
}

}  // namespace

void putAttribute(Imf::Header& header, const Attribute& attribute) {
  if (const auto* text = std::get_if<std::string>(&attribute.value)) {
    putText(header, attribute, *text);
    return;
  }
  const auto& n = std::get<std::vector<double>>(attribute.value);
  const std::string& type = attribute.type;
  bool fits = false;
  for (const auto& [name, length] : lengths) fits |= type == name && n.size() == length;
  if (!fits) throw std::invalid_argument("attribute " + attribute.name + " of type " + type + " cannot be written");
  const char* name = attribute.name.c_str();
  if (type == "int") header.insert(name, Imf::IntAttribute(int(n[0])));
  else if (type == "float") header.insert(name, Imf::FloatAttribute(float(n[0])));
  else if (type == "double") header.insert(name, Imf::DoubleAttribute(n[0]));
  else if (type == "rational") header.insert(name, Imf::RationalAttribute(Imf::Rational(int(n[0]), unsigned(n[1]))));
  else if (type == "v2i") header.insert(name, Imf::V2iAttribute(Imath::V2i(int(n[0]), int(n[1]))));
  else if (type == "v2f") header.insert(name, Imf::V2fAttribute(Imath::V2f(float(n[0]), float(n[1]))));
  else if (type == "v3i") header.insert(name, Imf::V3iAttribute(Imath::V3i(int(n[0]), int(n[1]), int(n[2]))));
  else if (type == "v3f") header.insert(name, Imf::V3fAttribute(Imath::V3f(float(n[0]), float(n[1]), float(n[2]))));
  else if (type == "box2i")
    header.insert(name, Imf::Box2iAttribute(Imath::Box2i(Imath::V2i(int(n[0]), int(n[1])), Imath::V2i(int(n[2]), int(n[3])))));
  else if (type == "m44f") {
    Imath::M44f matrix;
    for (int at = 0; at < 16; ++at) matrix[at / 4][at % 4] = float(n[at]);
    header.insert(name, Imf::M44fAttribute(matrix));
  } else {
    const auto point = [&n](int at) { return Imath::V2f(float(n[at]), float(n[at + 1])); };
    header.insert(name, Imf::ChromaticitiesAttribute(Imf::Chromaticities(point(0), point(2), point(4), point(6))));
  }
}

}  // namespace shale
