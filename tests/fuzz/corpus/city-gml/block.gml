<?xml version="1.0" encoding="UTF-8"?>
<core:CityModel xmlns:core="http://www.opengis.net/citygml/2.0" xmlns:bldg="http://www.opengis.net/citygml/building/2.0" xmlns:gml="http://www.opengis.net/gml" xmlns:xlink="http://www.w3.org/1999/xlink">
<gml:boundedBy><gml:Envelope srsName="EPSG:25832" srsDimension="3"/></gml:boundedBy>
<core:cityObjectMember><bldg:Building gml:id="b"><bldg:lod1Solid><gml:Solid><gml:exterior><gml:CompositeSurface>
<gml:surfaceMember xlink:href="#p"/></gml:CompositeSurface></gml:exterior></gml:Solid></bldg:lod1Solid>
<bldg:boundedBy><bldg:WallSurface><bldg:lod2MultiSurface><gml:MultiSurface><gml:surfaceMember><gml:Polygon gml:id="p"><gml:exterior><gml:LinearRing>
<gml:posList>0 0 0 9 0 0 9 0 6 0 0 6 0 0 0</gml:posList></gml:LinearRing></gml:exterior><gml:interior><gml:LinearRing><gml:pos>2 0 1</gml:pos><gml:pos>2 0 2</gml:pos><gml:pos>4 0 2</gml:pos></gml:LinearRing></gml:interior></gml:Polygon></gml:surfaceMember></gml:MultiSurface></bldg:lod2MultiSurface>
<bldg:opening><bldg:Window><bldg:lod2ImplicitRepresentation/></bldg:Window></bldg:opening></bldg:WallSurface></bldg:boundedBy></bldg:Building></core:cityObjectMember>
</core:CityModel>
