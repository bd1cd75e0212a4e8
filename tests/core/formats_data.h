#pragma once
// Small files of other people's formats, written by hand for the tests.

namespace noonward::test {

inline constexpr const char* town =
    R"({"type":"CityJSON","version":"1.1","transform":{"scale":[0.001,0.001,0.001],"translate":[500000,6100000,10]},"metadata":{"referenceSystem":"https://www.opengis.net/def/crs/EPSG/0/25832"},
"CityObjects":{
 "b1":{"type":"Building","attributes":{"name":"Kiln house"},"geometry":[
  {"type":"MultiSurface","lod":"1","boundaries":[[[0,1,2,3]]]},
  {"type":"Solid","lod":"2.2","boundaries":[[ [[0,3,2,1]], [[4,5,6,7]], [[0,1,5,4]], [[1,2,6,5]], [[2,3,7,6]], [[3,0,4,7]] ]],
   "semantics":{"surfaces":[{"type":"GroundSurface"},{"type":"RoofSurface"},{"type":"WallSurface"},{"type":"Window"}],"values":[[0,1,2,2,2,3]]}}]},
 "t":{"type":"SolitaryVegetationObject","geometry":[{"type":"MultiSurface","lod":"1","boundaries":[[[0,1,5]]]}]},
 "h":{"type":"TINRelief","geometry":[{"type":"CompositeSurface","lod":"1","boundaries":[[[0,1,2,3],[8,9,10,11]]]}]}},
"vertices":[[0,0,0],[10000,0,0],[10000,10000,0],[0,10000,0],[0,0,8000],[10000,0,8000],[10000,10000,8000],[0,10000,8000],[2000,2000,0],[4000,2000,0],[4000,4000,0],[2000,4000,0]]})";

inline constexpr const char* footprints = R"({"type":"FeatureCollection","features":[
 {"type":"Feature","properties":{"name":"Hall","height":12.5},"geometry":{"type":"Polygon","coordinates":[[[12.5,55.6],[12.501,55.6],[12.501,55.6005],[12.5,55.6005],[12.5,55.6]],[[12.5004,55.6002],[12.5006,55.6002],[12.5006,55.6003],[12.5004,55.6003],[12.5004,55.6002]]]}},
 {"type":"Feature","properties":{"building:levels":"3"},"geometry":{"type":"MultiPolygon","coordinates":[[[[12.502,55.6],[12.5025,55.6],[12.5025,55.6003],[12.502,55.6]]],[[[12.503,55.6],[12.5035,55.6],[12.5035,55.6003],[12.503,55.6]]]]}},
 {"type":"Feature","properties":null,"geometry":{"type":"Polygon","coordinates":[[[12.504,55.6],[12.5045,55.6],[12.5045,55.6003]]]}},
 {"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[12.5,55.6]}},
 {"type":"Feature","properties":{"height":4},"geometry":{"type":"Polygon","coordinates":[[["a",1]]]}}]})";

inline constexpr const char* grid = "ncols 4\nnrows 3\nxllcorner 1000\nyllcorner 2000\ncellsize 5\nNODATA_value "
                                    "-9999\n10 11 12 13\n20 21 22 -9999\n30 31 32 33\n";

inline constexpr const char* greenHouse = R"(<?xml version="1.0" encoding="UTF-8"?>
<gbXML lengthUnit="Feet" version="6.01">
 <Campus id="c"><Location><Latitude>55.6</Latitude><Longitude>12.5</Longitude><CADModelAzimuth>15</CADModelAzimuth></Location>
  <Building id="b"><Space id="s1"><Name>Reading room</Name></Space></Building>
  <Surface id="w1" surfaceType="ExteriorWall"><Name>South wall</Name><AdjacentSpaceId spaceIdRef="s1"/>
   <PlanarGeometry><PolyLoop>
    <CartesianPoint><Coordinate>0</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>20</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>20</Coordinate><Coordinate>0</Coordinate><Coordinate>10</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>0</Coordinate><Coordinate>0</Coordinate><Coordinate>10</Coordinate></CartesianPoint></PolyLoop></PlanarGeometry>
   <Opening id="o1" openingType="FixedWindow"><PlanarGeometry><PolyLoop>
    <CartesianPoint><Coordinate>2</Coordinate><Coordinate>0</Coordinate><Coordinate>3</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>8</Coordinate><Coordinate>0</Coordinate><Coordinate>3</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>8</Coordinate><Coordinate>0</Coordinate><Coordinate>8</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>2</Coordinate><Coordinate>0</Coordinate><Coordinate>8</Coordinate></CartesianPoint></PolyLoop></PlanarGeometry></Opening>
   <Opening id="o2" openingType="NonSlidingDoor"><PlanarGeometry><PolyLoop>
    <CartesianPoint><Coordinate>12</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>15</Coordinate><Coordinate>0</Coordinate><Coordinate>0</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>15</Coordinate><Coordinate>0</Coordinate><Coordinate>7</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>12</Coordinate><Coordinate>0</Coordinate><Coordinate>7</Coordinate></CartesianPoint></PolyLoop></PlanarGeometry></Opening></Surface>
  <Surface id="a1" surfaceType="Air"><AdjacentSpaceId spaceIdRef="nobody"/><PlanarGeometry><PolyLoop/></PlanarGeometry></Surface>
  <Surface id="x1" surfaceType="Shade"><PlanarGeometry><PolyLoop>
    <CartesianPoint><Coordinate>0</Coordinate><Coordinate>-3</Coordinate><Coordinate>10</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>20</Coordinate><Coordinate>-3</Coordinate><Coordinate>10</Coordinate></CartesianPoint>
    <CartesianPoint><Coordinate>20</Coordinate><Coordinate>0</Coordinate><Coordinate>10</Coordinate></CartesianPoint></PolyLoop></PlanarGeometry></Surface>
  <Surface id="x2" surfaceType="Roof"><PlanarGeometry><PolyLoop>
    <CartesianPoint><Coordinate>nan</Coordinate><Coordinate>0</Coordinate><Coordinate>10</Coordinate></CartesianPoint></PolyLoop></PlanarGeometry></Surface>
 </Campus>
</gbXML>)";

inline constexpr const char* cityInZone32 =
    R"({"type":"CityJSON","version":"2.0","transform":{"scale":[0.001,0.001,0.001],"translate":[0,0,0]},"metadata":{"referenceSystem":"https://www.opengis.net/def/crs/EPSG/0/25832"},
      "CityObjects":{"b":{"type":"Building","geometry":[{"type":"Solid","lod":"1","boundaries":[[[[0,3,2,1]],[[4,5,6,7]],[[0,1,5,4]],[[1,2,6,5]],[[2,3,7,6]],[[3,0,4,7]]]]}]}},"vertices":[)";

inline constexpr const char* collectionHead =
    R"({"type":"Feature","properties":{"height":9},"geometry":{"type":"GeometryCollection","geometries":[{"type":"Point","coordinates":[12.5,55.6]},{"type":"Polygon","coordinates":)";

inline constexpr const char* collectionMiddle =
    R"(},{"type":"GeometryCollection","geometries":[{"type":"MultiPolygon","coordinates":[)";

inline constexpr const char* footprintInDegrees =
    R"({"type":"Feature","properties":{"height":8},"geometry":{"type":"Polygon","coordinates":[[[12.5,55.6],[12.5004,55.6],[12.5004,55.6003],[12.5,55.6003]]]}})";

inline constexpr const char* onePoint = R"({"type":"Point","coordinates":[12.5,55.6]})";

} // namespace noonward::test
