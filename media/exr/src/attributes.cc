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

void putAttribute(Imf::Header& header, const Attribute& attribute) {
  const auto* numbers = std::get_if<std::vector<double>>(&attribute.value);
  if (attribute.type == "string") {
    header.insert(attribute.name, Imf::StringAttribute(std::get<std::string>(attribute.value)));
  } else if (attribute.type == "rational" && numbers && numbers->size() == 2) {
    header.insert(attribute.name, Imf::RationalAttribute(Imf::Rational(int((*numbers)[0]), unsigned((*numbers)[1]))));
  } else if (attribute.type == "int" && numbers && numbers->size() == 1) {
    header.insert(attribute.name, Imf::IntAttribute(int((*numbers)[0])));
  } else if (attribute.type == "float" && numbers && numbers->size() == 1) {
    header.insert(attribute.name, Imf::FloatAttribute(float((*numbers)[0])));
  } else {
    throw std::invalid_argument("attribute " + attribute.name + " of type " + attribute.type + " cannot be written");
  }
}

}  // namespace shale
