"""Where static files are kept: under names that tell their contents, modules' imports as well."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """As WhiteNoise keeps them, with the imports of JavaScript modules led to the new names."""

    support_js_module_import_aggregation = True
