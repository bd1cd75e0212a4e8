#include "app/stage/gl_renderer.h"
#include <QMatrix4x4>
#include <QOffscreenSurface>
#include <QOpenGLBuffer>
#include <QOpenGLContext>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLTexture>
#include <QOpenGLVersionFunctionsFactory>
#include <QOpenGLVertexArrayObject>
#include <QVector2D>
#include <QVector3D>
#include <QVector4D>

namespace noonward {

namespace {

constexpr const char* faceVertex = R"(#version 330 core
layout(location=0) in vec3 position; layout(location=1) in vec3 normal; layout(location=2) in vec4 lit; layout(location=3) in vec4 shade;
uniform mat4 view; uniform mat4 light;
out vec3 vNormal; out vec4 vLit; out vec4 vShade; out vec3 vLight; out vec3 vPosition;
void main() {
  gl_Position = view * vec4(position, 1.0);
  vNormal = normal; vLit = lit; vShade = shade; vPosition = position;
  vLight = (light * vec4(position, 1.0)).xyz * 0.5 + 0.5;
})";

constexpr const char* faceFragment = R"(#version 330 core
in vec3 vNormal; in vec4 vLit; in vec4 vShade; in vec3 vLight; in vec3 vPosition;
uniform vec3 sun; uniform float sunUp; uniform sampler2DShadow shadows; uniform float bias; uniform vec3 toEye; uniform float dotPitch; uniform vec3 shadowTint; uniform float mode;
out vec4 color;
float sunlit() {
  if (any(lessThan(vLight.xy, vec2(0.0))) || any(greaterThan(vLight.xy, vec2(1.0)))) return 1.0;
  return texture(shadows, vec3(vLight.xy, min(vLight.z, 1.0) - bias)); // the ground may lie beyond the map's depth
}
void main() {
  vec3 n = normalize(vNormal);
  if (dot(n, toEye) < 0.0) n = -n;
  if (mode > 0.5) { // the ground: its own colour, or shadow
    color = vec4(mix(shadowTint, vLit.rgb, sunUp > 0.5 ? sunlit() : 1.0), 1.0);
    return;
  }
  if (vLit.a < 0.5) { // result cells: flat colour, dots below the threshold, diagonals above the range, a hint of shadow
    vec3 c = vLit.rgb;
    vec2 q = (abs(n.z) > 0.7 ? vPosition.xy : vec2(dot(vPosition.xy, normalize(vec2(-n.y, n.x))), vPosition.z)) / dotPitch;
    if (vShade.a > 0.75 && length(q - round(q)) < 0.15) c = mix(c, vec3(1.0), 0.5);
    if (vShade.a > 0.25 && vShade.a < 0.75 && fract((q.x + q.y) * 1.4) < 0.22) c = mix(c, vec3(0.12, 0.14, 0.22), 0.55);
    color = vec4(c * (sunUp > 0.5 ? mix(0.9, 1.0, sunlit()) : 1.0), 1.0);
    return;
  }
  float t = 0.55 + 0.25 * n.z;
  if (sunUp > 0.5) {
    float facing = dot(n, sun);
    float s = facing > 0.0 ? sunlit() : 0.0;
    t = mix(0.12 + 0.16 * n.z + 0.1 * abs(n.x), 0.72 + 0.28 * facing, s);
  }
  color = vec4(mix(vShade.rgb, vLit.rgb, clamp(t, 0.0, 1.0)), 1.0);
})";

constexpr const char* plainVertex = R"(#version 330 core
layout(location=0) in vec3 position; uniform mat4 view; uniform float pull;
void main() { gl_Position = view * vec4(position, 1.0); gl_Position.z -= pull * gl_Position.w; })";
constexpr const char* plainFragment = R"(#version 330 core
uniform vec4 ink; out vec4 color; void main() { color = ink; })";

constexpr const char* pictureVertex = R"(#version 330 core
layout(location=0) in vec3 position; layout(location=1) in vec3 read; uniform mat4 view; out vec3 vRead;
void main() { gl_Position = view * vec4(position, 1.0); vRead = read; })";
constexpr const char* pictureFragment = R"(#version 330 core
in vec3 vRead; uniform sampler2D picture; uniform float strength; out vec4 color;
void main() {
  if (vRead.z <= 0.0) discard; // beyond the horizon of a photograph
  vec2 at = vRead.xy / vRead.z;
  vec4 c = texture(picture, at); // before anything is thrown away: it needs its neighbours
  if (any(lessThan(at, vec2(0.0))) || any(greaterThan(at, vec2(1.0)))) discard;
  color = vec4(c.rgb, c.a * strength);
})";

QMatrix4x4 matrix(const std::array<float, 16>& m) {
  QMatrix4x4 out;
  std::copy(m.begin(), m.end(), out.data());
  return out;
}
QVector3D vector(const QColor& c) {
  return {float(c.redF()), float(c.greenF()), float(c.blueF())};
}
QVector3D vector(Vec3 v) {
  return {float(v.x), float(v.y), float(v.z)};
}

} // namespace

struct GlRenderer::Inside {
  std::unique_ptr<QOffscreenSurface> surface;
  std::unique_ptr<QOpenGLContext> context;
  QOpenGLFunctions_3_3_Core* gl = nullptr;
  struct Buffers {
    QOpenGLVertexArrayObject faces, edges, strong;
    QOpenGLBuffer faceBuffer, edgeBuffer, strongBuffer, indexBuffer{QOpenGLBuffer::IndexBuffer};
    int faceCount = 0, edgeCount = 0, strongCount = 0;
    Box3 box;
  };
  std::array<Buffers, PartCount> parts;
  QOpenGLShaderProgram face, plain, picture;
  struct Laid {
    QString key;
    std::unique_ptr<QOpenGLTexture> texture;
    std::vector<UnderlayCorner> triangles;
    float strength = 1;
  };
  std::vector<Laid> underlays;
  QOpenGLVertexArrayObject pictureArray;
  QOpenGLBuffer pictureBuffer;
  QOpenGLVertexArrayObject groundArray;
  QOpenGLBuffer groundBuffer;
  std::unique_ptr<QOpenGLFramebufferObject> target, resolved;
  GLuint shadowTexture = 0, shadowFrame = 0;
  int shadowSize = 0;
  Vec3 shadowSun;
  bool shadowStale = true;
  QMatrix4x4 shadowMatrix;
  float bias = 0.0005f;

  bool begin();
  Box3 solidBox() const {
    Box3 b = parts[Still].box;
    b.addBox(parts[Moving].box);
    return b;
  }
  void drawFaces(Part part) {
    Buffers& b = parts[part];
    if (b.faceCount == 0) return;
    b.faces.bind();
    gl->glDrawElements(GL_TRIANGLES, b.faceCount, GL_UNSIGNED_INT, nullptr);
    b.faces.release();
  }
  void drawShadows(const RenderRequest& r);
};

bool GlRenderer::Inside::begin() {
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  format.setDepthBufferSize(24);
  surface = std::make_unique<QOffscreenSurface>();
  surface->setFormat(format);
  surface->create();
  context = std::make_unique<QOpenGLContext>();
  context->setFormat(format);
  if (!surface->isValid() || !context->create() || !context->makeCurrent(surface.get())) return false;
  gl = QOpenGLVersionFunctionsFactory::get<QOpenGLFunctions_3_3_Core>(context.get());
  if (!gl || !gl->initializeOpenGLFunctions()) return false;
  const bool built = face.addShaderFromSourceCode(QOpenGLShader::Vertex, faceVertex) &&
                     face.addShaderFromSourceCode(QOpenGLShader::Fragment, faceFragment) && face.link() &&
                     plain.addShaderFromSourceCode(QOpenGLShader::Vertex, plainVertex) &&
                     plain.addShaderFromSourceCode(QOpenGLShader::Fragment, plainFragment) && plain.link() &&
                     picture.addShaderFromSourceCode(QOpenGLShader::Vertex, pictureVertex) &&
                     picture.addShaderFromSourceCode(QOpenGLShader::Fragment, pictureFragment) && picture.link();
  if (!built) return false;
  gl->glGenTextures(1, &shadowTexture);
  gl->glGenFramebuffers(1, &shadowFrame);
  return true;
}

GlRenderer::GlRenderer() : in_(std::make_unique<Inside>()) {
  if (qEnvironmentVariableIsSet("NOONWARD_NO_OPENGL") || !in_->begin()) {
    in_->gl = nullptr;
    in_->context.reset();
  }
}

GlRenderer::~GlRenderer() {
  if (works() && in_->context->makeCurrent(in_->surface.get())) {
    in_->gl->glDeleteTextures(1, &in_->shadowTexture);
    in_->gl->glDeleteFramebuffers(1, &in_->shadowFrame);
    in_->target.reset();
    in_->resolved.reset();
    for (auto& b : in_->parts) {
      b.faces.destroy(), b.edges.destroy(), b.strong.destroy();
      b.faceBuffer.destroy(), b.edgeBuffer.destroy(), b.strongBuffer.destroy(), b.indexBuffer.destroy();
    }
    in_->groundArray.destroy();
    in_->groundBuffer.destroy();
    in_->face.removeAllShaders();
    in_->underlays.clear();
    in_->pictureArray.destroy();
    in_->pictureBuffer.destroy();
    in_->plain.removeAllShaders();
    in_->picture.removeAllShaders();
  }
  // Members of Inside go before its context would: release the context last, by hand.
  auto context = std::move(in_->context);
  auto surface = std::move(in_->surface);
  if (context && surface) context->makeCurrent(surface.get());
  in_.reset();
  if (context) context->doneCurrent();
}

bool GlRenderer::works() const {
  return in_->gl != nullptr;
}

QString GlRenderer::device() const {
  if (!works() || !in_->context->makeCurrent(in_->surface.get())) return "none";
  return QString::fromUtf8(reinterpret_cast<const char*>(in_->gl->glGetString(GL_RENDERER)));
}

void GlRenderer::upload(Part part, const StageGeometry& g) {
  if (!works() || !in_->context->makeCurrent(in_->surface.get())) return;
  Inside::Buffers& b = in_->parts[part];
  b.faceCount = int(g.index.size());
  b.edgeCount = int(g.edges.size() / 3);
  b.strongCount = int(g.strongEdges.size() / 3);
  b.box = g.box;
  if (part != Cells) in_->shadowStale = true;
  const auto fill = [](QOpenGLVertexArrayObject& array, QOpenGLBuffer& buffer, const void* data, std::size_t bytes,
                       auto&& attributes) {
    if (!array.isCreated()) array.create();
    if (!buffer.isCreated()) buffer.create();
    array.bind();
    buffer.bind();
    buffer.allocate(data, int(bytes));
    attributes();
    array.release();
    buffer.release();
  };
  auto* gl = in_->gl;
  const auto at = [](std::size_t offset) { return reinterpret_cast<const void*>(offset); };
  fill(b.faces, b.faceBuffer, g.vertices.data(), g.vertices.size() * sizeof(StageVertex), [&] {
    if (!b.indexBuffer.isCreated()) b.indexBuffer.create();
    b.indexBuffer.bind(); // kept by the vertex array
    b.indexBuffer.allocate(g.index.data(), int(g.index.size() * sizeof(std::uint32_t)));
    for (GLuint i = 0; i < 4; ++i) gl->glEnableVertexAttribArray(i);
    gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(StageVertex), at(0));
    gl->glVertexAttribPointer(1, 3, GL_BYTE, GL_TRUE, sizeof(StageVertex), at(12));
    gl->glVertexAttribPointer(2, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(StageVertex), at(16));
    gl->glVertexAttribPointer(3, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(StageVertex), at(20));
  });
  const auto lines = [&] {
    gl->glEnableVertexAttribArray(0);
    gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, 12, at(0));
  };
  fill(b.edges, b.edgeBuffer, g.edges.data(), g.edges.size() * 4, lines);
  fill(b.strong, b.strongBuffer, g.strongEdges.data(), g.strongEdges.size() * 4, lines);
}

void GlRenderer::setUnderlays(const std::vector<UnderlayDraw>& wanted) {
  if (!works() || !in_->context->makeCurrent(in_->surface.get())) return;
  std::vector<Inside::Laid> next;
  for (const UnderlayDraw& u : wanted) {
    Inside::Laid laid;
    laid.key = u.key;
    laid.strength = float(u.strength);
    for (Inside::Laid& old : in_->underlays)
      if (old.key == u.key && old.texture) {
        laid.texture = std::move(old.texture);
        break;
      }
    if (!laid.texture) {
      GLint most = 4096;
      in_->gl->glGetIntegerv(GL_MAX_TEXTURE_SIZE, &most);
      most = std::min(most, 8192);
      QImage image = u.image;
      if (std::max(image.width(), image.height()) > most)
        image = image.scaled(most, most, Qt::KeepAspectRatio, Qt::SmoothTransformation);
      laid.texture = std::make_unique<QOpenGLTexture>(image.convertToFormat(QImage::Format_RGBA8888));
      laid.texture->setMinMagFilters(QOpenGLTexture::LinearMipMapLinear, QOpenGLTexture::Linear);
      laid.texture->setWrapMode(QOpenGLTexture::ClampToEdge);
    }
    laid.triangles = u.triangles;
    next.push_back(std::move(laid));
  }
  in_->underlays = std::move(next);
}

void GlRenderer::Inside::drawShadows(const RenderRequest& r) {
  const bool own = parts[Casters].faceCount == 0;
  const Box3 box = own ? solidBox() : parts[Casters].box;
  const int size = r.quick ? 2048 : 4096;
  if (!r.sunUp || box.empty()) return;
  if (!shadowStale && shadowSun == r.sun && shadowSize >= size) return;
  if (shadowSize != size) {
    shadowSize = size;
    gl->glBindTexture(GL_TEXTURE_2D, shadowTexture);
    gl->glTexImage2D(GL_TEXTURE_2D, 0, GL_DEPTH_COMPONENT24, size, size, 0, GL_DEPTH_COMPONENT, GL_UNSIGNED_INT,
                     nullptr);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
    gl->glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_COMPARE_FUNC, GL_LEQUAL);
    gl->glBindFramebuffer(GL_FRAMEBUFFER, shadowFrame);
    gl->glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, shadowTexture, 0);
    gl->glDrawBuffer(GL_NONE);
    gl->glReadBuffer(GL_NONE);
  }
  // A parallel view from the sun, fitted to the model's box as the sun sees it: as sharp as the map allows.
  Camera c;
  c.kind = ViewKind::FromSun;
  c.azimuth = std::atan2(r.sun.x, r.sun.y);
  c.altitude = std::asin(std::clamp(r.sun.z, -1.0, 1.0));
  const Vec3 right = c.right(), up = c.up(), e = c.toEye();
  Box3 seen;
  for (int k = 0; k < 8; ++k) {
    const Vec3 p{k & 1 ? box.high.x : box.low.x, k & 2 ? box.high.y : box.low.y, k & 4 ? box.high.z : box.low.z};
    seen.add({dot(p, right), dot(p, up), dot(p, e)});
  }
  const Vec3 m = seen.center(), s = seen.size();
  c.target = right * m.x + up * m.y + e * m.z;
  c.height = s.y * 1.02 + 0.5;
  const double aspect = (s.x * 1.02 + 0.5) / c.height;
  Box3 deep = box; // the ground that receives lies below the model
  deep.low.z -= 1;
  shadowMatrix = matrix(c.matrix(1000 * aspect, 1000, deep));
  const double depth = length(deep.size()) + 2;
  bias = float(std::max(s.x, s.y) / size * 1.5 / depth);
  gl->glBindFramebuffer(GL_FRAMEBUFFER, shadowFrame);
  gl->glViewport(0, 0, size, size);
  gl->glClear(GL_DEPTH_BUFFER_BIT);
  gl->glEnable(GL_DEPTH_TEST);
  gl->glEnable(GL_POLYGON_OFFSET_FILL);
  gl->glPolygonOffset(1.5f, 2.0f);
  plain.bind();
  plain.setUniformValue("view", shadowMatrix);
  plain.setUniformValue("pull", 0.0f);
  if (own)
    drawFaces(Still), drawFaces(Moving);
  else
    drawFaces(Casters);
  gl->glDisable(GL_POLYGON_OFFSET_FILL);
  shadowSun = r.sun;
  shadowStale = false;
}

QImage GlRenderer::render(const RenderRequest& r) {
  if (!works() || r.width < 2 || r.height < 2 || !in_->context->makeCurrent(in_->surface.get())) return {};
  auto* gl = in_->gl;
  in_->drawShadows(r);
  const int samples = r.quick ? 0 : 4;
  const QSize size(r.width, r.height);
  if (!in_->target || in_->target->size() != size || in_->target->format().samples() != samples) {
    QOpenGLFramebufferObjectFormat f;
    f.setAttachment(QOpenGLFramebufferObject::Depth);
    f.setSamples(samples);
    in_->target = std::make_unique<QOpenGLFramebufferObject>(size, f);
    in_->resolved = samples ? std::make_unique<QOpenGLFramebufferObject>(size) : nullptr;
  }
  in_->target->bind();
  gl->glViewport(0, 0, r.width, r.height);
  const QColor& sky = r.theme->stage;
  gl->glClearColor(float(sky.redF()), float(sky.greenF()), float(sky.blueF()), 1);
  gl->glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  gl->glEnable(GL_DEPTH_TEST);
  gl->glDepthFunc(GL_LEQUAL);
  gl->glDisable(GL_CULL_FACE);

  Box3 box = in_->solidBox();
  box.addBox(in_->parts[Cells].box);
  if (box.empty()) box.add(r.camera.target);
  // The ground reaches as far as shadows do at a low sun.
  const Vec3 c = box.center();
  const double reach = 0.5 * length(box.size()) * 2.5 + 60;
  Box3 all = box;
  all.add({c.x - reach, c.y - reach, 0});
  all.add({c.x + reach, c.y + reach, 0});
  const QMatrix4x4 view = matrix(r.camera.matrix(r.width, r.height, all));
  in_->face.bind();
  in_->face.setUniformValue("view", view);
  in_->face.setUniformValue("light", in_->shadowMatrix);
  in_->face.setUniformValue("sun", vector(r.sun));
  in_->face.setUniformValue("sunUp",
                            r.sunUp && !(in_->solidBox().empty() && in_->parts[Casters].box.empty()) ? 1.0f : 0.0f);
  in_->face.setUniformValue("bias", in_->bias);
  in_->face.setUniformValue("toEye", vector(r.camera.toEye()));
  in_->face.setUniformValue("dotPitch", float(r.dotPitch));
  in_->face.setUniformValue("shadowTint", vector(r.theme->shadow));
  in_->face.setUniformValue("shadows", 0);
  gl->glActiveTexture(GL_TEXTURE0);
  gl->glBindTexture(GL_TEXTURE_2D, in_->shadowTexture);

  StageVertex corner{0, 0, 0, 0, 0, 127, 0, {}, {}};
  for (int k = 0; k < 3; ++k) corner.lit[k] = std::uint8_t(k == 0 ? sky.red() : k == 1 ? sky.green() : sky.blue());
  corner.lit[3] = 255;
  std::array<StageVertex, 4> ground{corner, corner, corner, corner};
  for (int k = 0; k < 4; ++k) {
    ground[std::size_t(k)].x = float(c.x + (k & 1 ? reach : -reach));
    ground[std::size_t(k)].y = float(c.y + (k & 2 ? reach : -reach));
    ground[std::size_t(k)].z = -0.005f;
  }
  if (!in_->groundArray.isCreated()) {
    in_->groundArray.create();
    in_->groundBuffer.create();
  }
  in_->groundArray.bind();
  in_->groundBuffer.bind();
  in_->groundBuffer.allocate(ground.data(), sizeof ground);
  for (GLuint i = 0; i < 4; ++i) gl->glEnableVertexAttribArray(i);
  gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(StageVertex), nullptr);
  gl->glVertexAttribPointer(1, 3, GL_BYTE, GL_TRUE, sizeof(StageVertex), reinterpret_cast<const void*>(12));
  gl->glVertexAttribPointer(2, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(StageVertex), reinterpret_cast<const void*>(16));
  gl->glVertexAttribPointer(3, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(StageVertex), reinterpret_cast<const void*>(20));
  in_->face.setUniformValue("mode", 1.0f);
  gl->glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
  in_->groundArray.release();
  in_->face.setUniformValue("mode", 0.0f);

  gl->glEnable(GL_POLYGON_OFFSET_FILL);
  gl->glPolygonOffset(1, 1);
  in_->drawFaces(Still);
  in_->drawFaces(Moving);
  gl->glDisable(GL_POLYGON_OFFSET_FILL);
  if (!in_->underlays.empty()) { // before the results, which then lie over them
    gl->glEnable(GL_BLEND);
    gl->glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE,
                            GL_ONE_MINUS_SRC_ALPHA); // the frame stays opaque
    gl->glDepthMask(GL_FALSE);
    in_->picture.bind();
    in_->picture.setUniformValue("view", view);
    in_->picture.setUniformValue("picture", 0);
    if (!in_->pictureArray.isCreated()) {
      in_->pictureArray.create();
      in_->pictureBuffer.create();
    }
    for (Inside::Laid& u : in_->underlays) {
      in_->pictureArray.bind();
      in_->pictureBuffer.bind();
      in_->pictureBuffer.allocate(u.triangles.data(), int(u.triangles.size() * sizeof(UnderlayCorner)));
      for (GLuint i = 0; i < 2; ++i) {
        gl->glEnableVertexAttribArray(i);
        gl->glVertexAttribPointer(i, 3, GL_FLOAT, GL_FALSE, sizeof(UnderlayCorner),
                                  reinterpret_cast<const void*>(std::size_t(12) * i));
      }
      in_->picture.setUniformValue("strength", u.strength);
      u.texture->bind(0);
      gl->glDrawArrays(GL_TRIANGLES, 0, GLsizei(u.triangles.size()));
      u.texture->release(0);
      in_->pictureArray.release();
    }
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
    in_->face.bind();
    gl->glActiveTexture(GL_TEXTURE0);
    gl->glBindTexture(GL_TEXTURE_2D, in_->shadowTexture);
  }
  in_->drawFaces(Cells);

  in_->plain.bind();
  in_->plain.setUniformValue("view", view);
  in_->plain.setUniformValue("pull", 0.00005f);
  const auto lines = [&](const QColor& ink, double alpha, bool strong) {
    in_->plain.setUniformValue("ink", QVector4D(vector(ink), float(alpha)));
    for (Part part : {Still, Moving}) {
      Inside::Buffers& b = in_->parts[part];
      const int n = strong ? b.strongCount : b.edgeCount;
      if (n == 0) continue;
      QOpenGLVertexArrayObject& a = strong ? b.strong : b.edges;
      a.bind();
      gl->glDrawArrays(GL_LINES, 0, n);
      a.release();
    }
  };
  gl->glEnable(GL_BLEND);
  gl->glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
  lines(r.theme->edge, 0.75, false);
  lines(r.theme->noon, 1, true);
  gl->glDisable(GL_BLEND);
  if (in_->resolved) {
    QOpenGLFramebufferObject::blitFramebuffer(in_->resolved.get(), in_->target.get());
    return in_->resolved->toImage(true).convertToFormat(QImage::Format_RGB32);
  }
  return in_->target->toImage(true).convertToFormat(QImage::Format_RGB32);
}

} // namespace noonward
