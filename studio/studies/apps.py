from django.apps import AppConfig


class StudiesConfig(AppConfig):
    name = "studio.studies"
    label = "studies"
