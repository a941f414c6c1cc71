from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "studio.jobs"
    label = "jobs"
